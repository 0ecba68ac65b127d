"""The catalogue of sentences that the heart says; the interface may translate by code."""

from __future__ import annotations

from typing import Any, Literal

from mallet.terms.errors import NotFeasible
from mallet.terms.pieces import Reason, RuleUse
from mallet.terms.plan import Caution

TEXTS: dict[str, str] = {
    "light.by_dose": (
        "The weakest point gets {irradiance_mw_cm2:.0f} mW/cm\u00b2 and needs {dose_j_cm2:.2f} J/cm\u00b2:"
        " {seconds:.1f} s at full output."
    ),
    "light.by_halves": (
        "From over both halves together the weakest point gets {irradiance_mw_cm2:.0f} mW/cm\u00b2 and needs"
        " {dose_j_cm2:.2f} J/cm\u00b2: {seconds:.1f} s at full output over each."
    ),
    "light.by_sides": (
        "The least that brings {dose_j_cm2:.2f} J/cm\u00b2 to every point is {seconds:.1f} s at full output, from"
        " {sides}."
    ),
    "light.need_by_maker": (
        "The need of {dose_j_cm2:.2f} J/cm\u00b2 stands at the deepest point: it is what {surface_j_cm2:g} J/cm\u00b2 at the surface,"
        " as the manufacturer asks, leave at half the scraped length (ISO 4049)."
    ),
    "light.need_by_factor": (
        "The need of {dose_j_cm2:.2f} J/cm\u00b2 stands at the deepest point: {times:g} times the critical exposure."
    ),
    "light.at_least": "No exposure is shorter than {least_s:g} s.",
    "light.by_maker": "The maker's time, {maker_s:.0f} s with this lamp, is longer and counts.",
    "light.middle_longer": "One exposure over the middle would take {middle_s:g} s.",
    "light.middle_too_long": (
        "One exposure over the middle would take {middle_s:g} s, and none may be longer than {longest_s:g} s."
    ),
    "light.again": (
        "Light it again from the same place: one exposure may last {longest_s:g} s, and thinner portions gain"
        " little."
    ),
    "light.middle_dark": "One exposure over the middle does not reach every point.",
    "light.above_longer": "From {opens} alone it would take {above_s:g} s.",
    "light.above_dark": "From {opens} alone not every point is reached.",
    "build.not_placed": "Leave {name} in its drawer: it is chosen, and the plan places none of it.",
    "build.ambiguous": "Several composites in stock serve as {role} shade; name the one that is wanted.",
    "layering.asked": "The case asks for the {school} school.",
    "layering.bounded": "Each portion stays within {limit_mm:g} mm along the light.",
    "layering.thinned": (
        "Cut to {limit_mm:.2f} mm instead of {asked_mm:g} mm: thicker, a portion would need more"
        " than {longest_s:g} s in one exposure."
    ),
    "layering.thinned_again": (
        "Cut to {limit_mm:.2f} mm instead of {asked_mm:g} mm: thicker, a portion would need more"
        " than {times:g} exposures of {longest_s:g} s from one place."
    ),
    "layering.aslant": (
        "The tip is tilted by {tilt_deg:g} degrees: layers of {limit_mm:.2f} mm keep the light's way"
        " through each within {asked_mm:g} mm."
    ),
    "layering.no_room_for_wall": (
        "The box is {axial_depth_mm:g} mm deep at the {side} axial wall; a proximal wall of"
        " {wall_mm:g} mm leaves less than {least_mm:g} mm behind it, so the box is filled in"
        " flat layers."
    ),
    "layering.no_box": "There is no proximal box, so there is no wall to build first.",
    "layering.stress": (
        "Layering does not always lower shrinkage stress; the dose at the deepest point and the"
        " bulk of each portion matter more."
    ),
    "band.sectional": "One open side with both cusps standing: a sectional band with a ring.",
    "band.sectional_each": "Each open side with its cusps standing: a sectional band with a ring.",
    "matrix.strong": (
        "Lay out contact saw, waxed floss and strip: ring and wedge part the {side} contact with {force_n:g} N."
    ),
    "band.rotated": (
        "The neighbour {tooth} is rotated and defeats a preformed metal band; a clear anatomical"
        " band can be shaped to it."
    ),
    "band.cusp_covered": (
        "With the {cusps} cusp gone, a band goes all round the tooth and stands as high as what is built there."
    ),
    "band.no_neighbour": (
        "No tooth stands beside the {side} box: a retainer-held circumferential band, contoured by hand."
    ),
    "band.level": "Its upper edge stands level with the marginal ridge of {tooth}.",
    "miss.form": "It is {form}, and wanted is {wanted}.",
    "miss.low": "Too low by {by_mm:.1f} mm.",
    "miss.narrow": "Too narrow by {by_mm:.1f} mm for the gap and what parts the teeth.",
    "miss.high": "It stands {by_mm:.1f} mm into the contact.",
    "wedge.by_gap": (
        "The embrasure is {gap_mm:.2f} mm wide at the gingival margin and the teeth must part by"
        " {separation_mm:.2f} mm."
    ),
    "shelf.taken": "{name} is the least on the shelf that would do.",
    "shelf.none": "Nothing on the shelf would do: the size goes by the steps that they come in.",
    "wedge.too_narrow": "The embrasure is too narrow for a wedge: ligature, cord or tape.",
    "wedge.none": "No neighbour to wedge against.",
    "bond.selective_enamel": (
        "Etching the enamel improves margins with self-etching adhesives; dentin is left to the"
        " adhesive's own acid."
    ),
    "bond.etch_and_rinse": (
        "The case asks for etch-and-rinse: enamel first, dentin later and no longer than it bears; dentin is"
        " left moist, or the adhesive finds no way in."
    ),
    "bond.self_etch": (
        "The case asks for self-etch: no acid of its own on enamel, so that its margins bond less than etched ones."
    ),
    "bond.least_failing": (
        "Of what stands on the shelf and suits, {name} is of the kind that fails least: {family}, {percent:g} %"
        " a year in lesions at the neck."
    ),
    "bond.asked": "{name} is asked for: {family}, {percent:g} % a year fail in lesions at the neck.",
    "bond.school_unsuited": (
        "{name} is not made for {asked}: the steps are those of {used}. Another adhesive, or another school."
    ),
    "bond.strong_acid": (
        "A strong acid: such adhesives ({family}) fail at {percent} % a year in lesions at the neck."
    ),
    "bond.margin_in_dentin": (
        "The {where} gingival margin has no enamel to etch: what holds there is the bond to dentin alone ({family},"
        " {percent} % a year fail in such margins). Keep acid off that dentin unless the adhesive wants it."
    ),
    "bond.margin_without_enamel": (
        "The {where} gingival margin has no enamel to etch: what holds there is the bond to dentin alone. A mild"
        " self-etching adhesive in two bottles may hold longest there."
    ),
    "bond.acid_on_deep_dentin": (
        "Phosphoric acid on bare dentin {left_mm} mm from the pulp: cover it first, or let the adhesive do the"
        " etching."
    ),
    "bond.damp_field": (
        "Bonded without a dam: fresh rolls before the acid, suction throughout, and begin again at the first damp."
    ),
    "protect.asked": "The case asks for {what}.",
    "protect.no_pulp": "There is no living pulp to protect.",
    "protect.thick": "{left_mm:g} mm of dentin are left: enough without anything.",
    "protect.sealed": (
        "{left_mm:g} mm of dentin are left: the adhesive seals it; a liner below composite adds nothing that was shown."
    ),
    "protect.deep": (
        "{left_mm:g} mm of dentin are left over a living pulp: it is covered before acid or adhesive comes near."
    ),
    "protect.placed_before": "The base has filled the cavity for {days} days; it is cut back to the lost dentin's shape.",
    "protect.named": "{name} is asked for.",
    "protect.from_shelf": "{name} is the {what} on the shelf.",
    "protect.none_on_shelf": "There is no {what} on the shelf: its properties are the handbook's.",
    "protect.no_room": "There is no room for a base on the {where}: a base so thin breaks. A liner, or the adhesive alone.",
    "protect.fresh_silicate": (
        "Bonded over fresh calcium silicate without enamel all round ({where}): it does not grip the tooth at first,"
        " and the shrinking filling may lift it."
    ),
    "protect.capping": "The pulp shows and is to be capped: calcium silicate on it, then the filling over all.",
    "protect.pulpotomy": "The pulp shows and its coronal part is removed: calcium silicate on the rest, then the filling.",
    "protect.sealed_instead": "{left_mm:g} mm of dentin are left and no base has room: the adhesive seals it, or a liner.",
    "protect.capped": (
        "Tell the patient that the pulp was exposed; record size, bleeding and what was done; test the tooth at reviews."
    ),
    "protect.pulp_shows": (
        "The pulp shows: stop. Decide on capping, pulpotomy or root canal treatment, by size, bleeding, asepsis and"
        " caries-free margins, and record it."
    ),
    "protect.root_treatment": "The pulp shows and the root is to be treated: that comes first, and the filling after it.",
    "protect.second_visit": (
        "Without enamel all round, calcium silicate is bonded over after {days} days: fill the whole cavity with it"
        " today and close. The filling is for a visit in {waits_days} days or more; or bond over it at once by"
        " the other school."
    ),
    "isolate.nerves": "Nerves of {tooth}: {pulp}. Of its gum, where clamp and ligature press: {gum} (handbooks of local anesthesia).",
    "anesthetic.advice": "A maximum is a caution, not an order: the dentist decides by patient, label and local rules.",
    "anesthetic.most": "At most {told} for {weight_kg:g} kg.",
    "anesthetic.no_weight": "Ask the weight: without it no maximum of the anesthetic is shown.",
    "anesthetic.too_young": "Choose another agent: {agent} is not given under {years:g} years.",
    "anesthetic.methemoglobinemia": "Choose another agent: no prilocaine with methemoglobinemia.",
    "anesthetic.sulfite": "Choose an agent without epinephrine: its preservative is a sulfite.",
    "isolate.given": "Given: {given}.",
    "isolate.holes": "From the smallest hole of five: {holes}; {spacing_mm:g} mm apart.",
    "isolate.without_dam": "The case says that no dam is possible.",
    "isolate.no_dam": (
        "Without a dam: a second pair of hands throughout, a dry field checked before acid, adhesive and each portion,"
        " nothing small loose in the mouth. The bond is at more risk at the gingival margin."
    ),
    "isolate.below_gum": (
        "The margin lies below the gum: lay the gum back, turn the dam's edge in with a ligature, stop any bleeding"
        " first. What cannot be kept dry there is not bonded."
    ),
    "neighbour.open": (
        "The contact to {tooth} was open: separate more, burnish the band well out, and tell the patient that food may"
        " still pack there."
    ),
    "neighbour.tight": (
        "The contact to {tooth} was tight: open it with a strip first, or the band crumples; floss it again at the end."
    ),
    "neighbour.smoothed": (
        "{tooth} meets ours with a contact that is {contact}: no band lies against it. Smoothed with a disc it does;"
        " that cannot be undone, so ask the patient first."
    ),
    "isolate.amalgam_without_dam": (
        "Old amalgam comes out without a dam: throat pack, high suction at the tooth, much water, chunks not dust."
    ),
    "shade.unseen": "Nobody sees it: one body mass does, as far as the shade goes.",
    "shade.deep": "It shows and is {depth_mm:g} mm deep: a dentin mass that masks, enamel over it.",
    "shade.shallow": "It shows and is {depth_mm:g} mm deep: body and enamel; there is no room for a mass that masks.",
    "shade.read": "Read wet: {value}.",
    "shade.no_mass": "It shows, and no {role} mass is chosen: another stands in for it.",
    "assess.cause": "Treated for {cause}.",
    "assess.heights": "Before cutting: {heights}.",
    "assess.booked": "Seen beside it, to be booked: {what}.",
    "assess.signs": (
        "There is doubt about the pulp: {signs}. Diagnose it first, then say how it is: percussion, cold, the same"
        " tests on the teeth beside it."
    ),
    "assess.contradiction": (
        "Signs and diagnosis contradict each other: {signs}, and the pulp is said to be {pulp}. Examine the pulp again"
        " before anything is restored."
    ),
    "assess.necrotic": (
        "The pulp is necrotic and untreated: endodontic treatment or extraction comes first, the restoration after it."
    ),
    "assess.wants_tooth": "Confirm that it is tooth {tooth} before work starts.",
    "assess.wants_pulp": "Diagnose the pulp before work starts.",
    "assess.signs_told": "Signs of a pulp in trouble: {signs}; the pulp is said to be {pulp}. Be sure of it before it is covered.",
    "assess.bite_pain": "It hurts on biting and no crack is noted: look for one, cusp by cusp.",
    "assess.sealant": "A partly lost sealant: look for decay below what is left of it.",
    "prepare.decay_hard": "Asked for: hard dentin throughout; what is stained but firm may stay.",
    "prepare.decay_exposed": "The pulp shows: no soft dentin stays over or beside it.",
    "prepare.short_bevel": "Bevel the edge longer: at {bevel_mm:g} mm the border will show.",
    "margin.seen_in_dentin": (
        "Keep the {side} gingival margin dry and etch no dentin there: it was seen to end in dentin, where bonds are weaker."
    ),
    "pulp.by_handbook": (
        "Measure the dentin left on the radiograph: by the handbook's average pulp about {remaining_mm:.1f} mm remain."
    ),
    "prepare.decay_firm": "Shallow or moderate: firm dentin over the pulp is enough, the edge hard all round.",
    "prepare.decay_soft": (
        "Deep, {left_mm:g} mm over a living pulp: soft dentin stays over it rather than open it; the edge hard all round."
    ),
    "prepare.decay_dead": "The pulp is not alive: nothing over it is to be spared.",
    "prepare.neck_roughen": "What is worn is glassy and bonds badly: roughened first. A bevel shows no gain in retention.",
    "prepare.neck_bevel": "What is worn is glassy and bonds badly: roughened first. A bevel of the enamel, for the blend.",
    "matrix.neck_strip": (
        "The margin lies below the gum: a clear strip, folded and flared, seals below it; a cord alone lets"
        " fluid in."
    ),
    "matrix.neck_free": "The margin lies free: shaped without a strip, a cord in the sulcus.",
    "layering.gingival_first": "The gingival portion first, sloped: it shrinks towards its own margin, not off it.",
    "layering.edge_wall": "The lingual wall first, on an index of the shape that it is to have; then dentin, then enamel.",
    "matrix.strips": (
        "Two strips: a dead-soft one keeps acid and adhesive off the neighbour, a clear one shapes the filling and"
        " lets light through."
    ),
    "matrix.index": "A putty index holds the lingual wall where it was waxed or mocked up.",
    "prepare.edge_bevel": "A bevel carries it; that a notch adds to it is not proven.",
    "prepare.edge_notch": "A bevel, and a notch on the tongue side besides, for those who will not trust the bond alone.",
    "prepare.scanned": "What lies between the two scans is filled; as measured it would be {measured_mm3:.1f} mm\u00b3.",
    "prepare.scan_differs": (
        "The scanned cavity has {scanned_mm3:.1f} mm\u00b3, the measures say {measured_mm3:.1f}: floors, walls and margins"
        " are still told by the measures. Measure again."
    ),
    "prepare.for_gold": (
        "Gold foil would want its margin bevelled by {bevel_deg:g} degrees, after the varnish, and a groove to start from."
    ),
    "prepare.amalgam_thin_edge": "Amalgam would end in an edge of {angle_deg:g} degrees; under {least_deg:g} it chips.",
    "prepare.amalgam_bare_enamel": (
        "Enamel beside the amalgam would be left so sharp that its own margin has {angle_deg:g} degrees, over {most_deg:g}:"
        " plane it off."
    ),
    "prepare.amalgam_shallow": "Its floor lies {depth_mm:g} mm deep; amalgam wants {least_mm:g} mm.",
    "prepare.amalgam_unheld": (
        "Cusps covered: {cusps}; slots, pins and grooves: {held}. Amalgam wants one for each missing cusp."
    ),
    "prepare.amalgam_opens": "Its walls open by {opens_deg:g} degrees: amalgam is not bonded and wants walls that converge.",
    "matrix.copper_annealed": "Annealed, it burnishes to the contour; as drawn it keeps its own.",
    "matrix.copper_as_drawn": "As drawn it stays stiff, and keeps the contour that it is given; annealed it would burnish.",
    "matrix.copper_stays": "Resin is hard at once; over amalgam it would stay for {hours:g} h.",
    "matrix.form": (
        "Try the form in before the acid: all walls are gone together, and it holds the whole and lets light through."
    ),
    "band.copper": "A core is built up over a shoulder: a copper band goes all round, trimmed to the gum and the bite.",
    "band.tunnel": "The ridge stays over the tunnel: a clear band, which lets light in from the sides.",
    "layering.in_form": "The form is filled at once.",
    "prepare.cover_cracked": "Cover the cracked cusp: uncovered it may split on.",
    "prepare.cover_root_filled": (
        "Consider covering the cusps: root canal-treated with a ridge gone, the tooth is at higher risk of splitting."
    ),
    "prepare.gauge": "The head's length is the gauge: {head_mm:g} mm is one head.",
    "occlusal_box.meets_walls": (
        "With two boxes the occlusal box runs from axial wall to axial wall: {length_mm:.2f} mm"
        " instead of {given_mm:g} mm."
    ),
    "margin.in_dentin": (
        "The {side} gingival margin lies {below_mm:.1f} mm below the cervical line there, in root"
        " dentin: the bond is weaker and the margin harder to keep dry."
    ),
    "margin.thin_enamel": (
        "The {side} gingival margin lies {above_mm:.1f} mm above the cervical line: the enamel there is thin."
    ),
    "pulp.close": (
        "Consider protecting the pulp before bonding: {remaining_mm:.1f} mm of dentin is left over it."
    ),
    "pulp.very_close": (
        "{remaining_mm:.2f} mm of dentin is left over the pulp, or less: stop, look for an"
        " exposure and decide on protection before going on."
    ),
    "pulp.may_be_warm": (
        "Blow air on the tooth between exposures: the pulp may warm by {low_c:.1f} to {high_c:.1f} \u00b0C; careful from"
        " {limit_c:g}."
    ),
    "pulp.disagrees": (
        "The measured {given_mm:.1f} mm of dentin count; the handbook's average pulp would lie {estimated_mm:.1f} mm away."
    ),
    "light.eye": (
        "Orange shield for everyone who can see the tip; never look into the beam. In blue the tip is"
        " {direct_times:.0f} times brighter than eyes bear over a day, a lit tooth {reflected_times:.0f} times."
    ),
    "light.ramp": (
        "Every press begins at {start_percent:g} % of full output and rises to it within {rise_s:g} s: it gives"
        " {lost_s:.2g} s of full output less. Reckoned by dose alone; no clinical gain of a soft start is"
        " shown (Chan et al. 2008, Oper Dent 33:265, from memory)."
    ),
    "light.pulsed": (
        "The output is on for {on_percent:g} % of the time; readings are of steady output, so that exposures take"
        " {times:.2f} times as long."
    ),
    "light.residual": (
        "Read the lamp again at every distance: a reading lies {percent} % off the fitted beam. The plan goes by the"
        " measured curve."
    ),
    "light.weak": "The lamp gives {given:.0f} mW/cm2 at contact: usable, but watch it.",
    "light.too_weak": (
        "The lamp gives {given:.0f} mW/cm2 at contact; a source under {needed:.0f} mW/cm2 is not to be used."
    ),
    "light.after_band": (
        "Light the proximal surface from both sides once the metal band is off: it shaded that."
    ),
    "cure.too_long": (
        "{where} would need {needed_s:.0f} s from one place even when cut to {limit_mm:.2f} mm;"
        " at most {times:g} exposures of {longest_s:g} s are planned. Its weakest point ({spot}): of the lamp's"
        " {contact_mw_cm2:.0f} mW/cm2 at contact {open_mw_cm2:.0f} would come as far,"
        " {past_walls_mw_cm2:.0f} past what stands in the way, {arriving_mw_cm2:.0f} through the mass."
    ),
    "cure.too_aslant": (
        "With the tip tilted by {tilt_deg:g} degrees the light's way through a portion stays over"
        " {asked_mm:g} mm however thin it is cut: hold the tip straight."
    ),
    "cure.dark": (
        "No light reaches a point of {where} ({spot}): what stands in the way hides the whole tip from it,"
        " so no exposure can cure it."
    ),
    "wet.in_conditioning": "The conditioned surface got wet: rinse, and condition it again.",
    "wet.unset": "Glass ionomer that gets wet before it has set comes out: begin again at conditioning.",
    "wet.set": "It has set and takes no harm: dry it and go on.",
    "wet.etched": "Saliva met etched enamel: etch it anew.",
    "wet.resin": "Saliva met resin that is not cured: wipe it out, etch anew, place it again.",
    "wet.sealed": "The sealant is cured and takes no harm.",
    "sealant.parts": "A sealant fills fissures only, not {part}: restore that with composite or glass ionomer.",
    "ionomer.parts": "Glass ionomer is no core and takes no {part}: choose composite or amalgam.",
    "sealant.named": "{name} is asked for.",
    "sealant.from_stock": "{name} is in stock.",
    "sealant.handbook": "No sealant in stock: depth and light are the handbook's. Read the package.",
    "sealant.clean": "Clean, dry and look again before etching; no probe is pressed into a fissure.",
    "sealant.enamel_only": "Etch enamel only: nothing is cut, so dentin is not reached and no anesthesia is needed.",
    "sealant.young": "Etch young or fluorosed enamel longer: it resists the acid.",
    "sealant.several": "Work {teeth} in one order: clean all, etch all, then place and cure tooth by tooth.",
    "sealant.caries": (
        "Caries under the fissure: open it where it is carious, restore that with composite, and seal the rest."
    ),
    "sealant.lost": "An old sealant was lost: look under it for caries, then record whether there is any.",
    "sealant.wet": (
        "The fissure cannot be kept dry: use glass ionomer for now, and review it once the tooth has erupted."
    ),
    "sealant.too_deep": (
        "{name} cures {most_mm:g} mm deep, the fissure is {depth_mm:.1f} mm deep: open it less, or use a sealant that cures"
        " deeper."
    ),
    "sealant.erupting": "The tooth is still erupting: keep it dry throughout, and review the sealant early.",
    "ionomer.named": "{name} is asked for.",
    "ionomer.from_stock": "{name} is the first glass ionomer in stock that needs no light.",
    "ionomer.handbook": "No glass ionomer in stock: times are the handbook's. Read the package.",
    "ionomer.condition": "{name} is used with {what} for {seconds:g} s.",
    "ionomer.dry_moist": "Published: keep the surface moist; parched dentin draws water from the cement.",
    "ionomer.dry_very": "The other technique: dry thoroughly; some teach it for a cleaner surface.",
    "ionomer.in_one": "{volume_mm3:.0f} mm\u00b3 with a surplus is less than a capsule's {capsule_mm3:g} mm\u00b3: place it in one.",
    "ionomer.in_mixes": (
        "{volume_mm3:.0f} mm\u00b3 is more than a capsule's {capsule_mm3:g} mm\u00b3. Mix one at a time; mixes meet"
        " {joints} over the deepest point."
    ),
    "ionomer.coat_clear": "The value is right when wet: a clear coat keeps it.",
    "ionomer.coat_tinted": "The value is too high when wet: a tinted coat lowers it. The coat shifts the color.",
    "ionomer.coat_by_look": "Nobody has looked yet: wet the trimmed surface, look at its value, then choose.",
    "ionomer.final_now": "Finish it wet in the same visit. The other technique waits {hours:g} h for the final finish.",
    "ionomer.final_later": "Take off gross excess now; the final finish follows after {hours:g} h, at a visit of its own.",
    "ionomer.load": (
        "{what} breaks glass ionomer: choose composite, amalgam or a crown. As an interim restoration, take it out of"
        " occlusion and record a lower load."
    ),
    "ionomer.resin_allergy": "The patient is allergic to resin, and {name} contains it: choose a conventional glass ionomer.",
    "ionomer.under_load": "Glass ionomer wears and chips under load in a permanent tooth: review it, or take it as interim.",
    "ionomer.deep_bite": "A deep overbite loads this edge: neither notch nor ionomer is likely to last.",
    "ionomer.no_notch": "Nothing holds it at the broken edge: cut a retention notch of {least_mm:g} mm, or bevel and bond composite.",
    "wet.before_bond": "Nothing is bonded yet: find the leak, dry, and begin this step again.",
    "wet.in_bond": "Acid and adhesive are spoilt: stop the leak, rinse, dry, and bond again from the acid.",
    "wet.film": (
        "Keep what is cured. Stop the leak, rinse, dry, and bond again from the acid; then place this portion."
    ),
    "wet.portion": (
        "Take this uncured portion out. Stop the leak, rinse, dry, bond again from the acid and place a"
        " fresh portion; what is cured stays."
    ),
    "wet.cured": "The filling is cured and takes no harm: stop the leak, dry, and go on.",
    "assess.pulp_in_doubt": (
        "There is doubt about the pulp: diagnose it before anything is filled. Where does it hurt, on what, since"
        " when; percussion; cold; the same tests on the teeth beside it."
    ),
    "assess.pulp_irreversible": (
        "The pulp is irreversibly inflamed: decide on vital pulp therapy, root canal treatment or extraction first."
    ),
    "assess.which_tooth": (
        "It is not sure that it is this tooth: test it and its neighbours again before one of them is cut."
    ),
    "choose.stopped": "{name} must not be placed here. {why} ({source}).",
    "choose.first": "{name} comes first with {points:g} points.",
    "choose.tied": "{name} and {others} weigh the same: the dentist decides.",
    "choose.least_against": "{name} comes first as the least unfavorable: more speaks against each than for it.",
    "choose.provisional": "Provisional until the tooth is opened; then it is confirmed, or ranked anew.",
    "choose.not_first": (
        "{first} weighs more here than {name}: {first_points:g} points against {points:g}. Read both, then decide."
    ),
    "choose.local_law": (
        "Local law comes before this list. The profile is that of {place}, recalled on {as_of}: not legal advice, verify it."
    ),
    "choose.assumed": "Nobody has said otherwise, so it is taken that {what}.",
    "choose.needed": "Strictly needed, as stated: {need}. Decided by: {by}.",
    "alert.endocarditis": "Ask about antibiotic cover before clamp, wedge or band: the patient is at risk of endocarditis.",
    "alert.anticoagulants": "Expect longer bleeding from injection, clamp and wedge: the patient takes anticoagulants.",
    "alert.pacemaker": "Keep ultrasonic and electrosurgical devices away: the patient has a pacemaker.",
    "alert.light_sensitizing": "Shield eyes and skin from the curing light: the patient's medicine makes sensitive to light.",
    "alert.chlorhexidine": "Keep chlorhexidine off the tray: the patient is allergic to it.",
    "alert.anesthetic": "Do not inject before the anesthetic allergy is settled: which agent, which reaction.",
    "alert.sulfite": "Take an anesthetic without vasoconstrictor: its preservative is a sulfite.",
    "alert.metals": "Ask which metals: bands, clamps and pins hold nickel or copper.",
    "alert.eugenol": "Keep eugenol off the tray: the patient is allergic to it.",
    "alert.mercury": "Do not place amalgam: the patient is allergic to mercury.",
    "alert.resin": "Keep resin off skin and gingiva: the patient is allergic to it.",
    "alert.latex": "Take dam, gloves and everything that touches the patient without latex: latex allergy.",
    "advice": (
        "The tool advises; a dentist decides and signs. Local codes and the maker's instructions come first."
    ),
}


def say(code: str, **params: Any) -> Reason:
    """Return the catalogue's sentence for a code; an unknown code raises KeyError."""
    return Reason(code=code, params=params, text=TEXTS[code].format(**params))


def warn(level: Literal["note", "caution", "stop"], code: str, authority: str, **params: Any) -> Caution:
    """Return a caution with the authority it rests on."""
    text = TEXTS[code].format(**params)
    return Caution(level=level, code=code, params=params, text=text, authority=authority)


def warn_by(level: Literal["note", "caution", "stop"], code: str, use: RuleUse, **params: Any) -> Caution:
    """Return a caution that rests on a rule."""
    return warn(level, code, use.citation, **params).model_copy(update={"rules": [use]})


def refuse(code: str, nearest: dict[str, object] | None = None, **params: Any) -> NotFeasible:
    """Return the error that says which requirement fails and what would do."""
    return NotFeasible(code, TEXTS[code].format(**params), nearest)
