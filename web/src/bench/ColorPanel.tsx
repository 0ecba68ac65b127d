import Box from "@mui/material/Box";
import type { Schemas } from "../api/client";
import { paper } from "../theme/tokens";
import { cssOf } from "./lab";
import { useMatchCosts } from "./queries";
import type { Draft } from "./useDraft";
import { Why } from "./Why";

type ColorPlan = Schemas["ColorPlan"];

const MEANS: Record<ColorPlan["seen"], string> = {
  not_seen: "not seen",
  accepted: "seen, and accepted",
  not_accepted: "seen, and not accepted",
  cannot_tell: "cannot tell: look at a mock-up, wet",
};

/** What was wanted beside what is planned. Numbers and words carry the verdict: a screen shows colors only about. */
export function ColorPanel({ color }: { color: ColorPlan }) {
  const patches = [
    ["target, wet", color.target],
    ["predicted", color.predicted],
    ["target, dry", color.target_dry],
  ] as const;
  return (
    <Box component="section" aria-label="Color" sx={{ my: 1 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(3, 1fr)", gap: 0.5 }}>
        {patches.map(([name, lab]) => (
          <Box key={name} sx={{ fontSize: 14 }}>
            <Box sx={{ height: 44, border: `1px solid ${paper.soft}`, bgcolor: cssOf(lab) }} />
            <strong>{name}</strong>
            <Box sx={{ color: "text.secondary", whiteSpace: "nowrap" }}>
              {lab.map((one, axis) => one.toFixed(axis === 1 ? 1 : 0)).join(" / ")}
            </Box>
          </Box>
        ))}
      </Box>
      <Box
        sx={{ display: "flex", justifyContent: "space-between", alignItems: "baseline", mt: 0.75 }}
      >
        <span>Difference</span>
        <span>
          <Box component="strong" data-color="difference" sx={{ fontSize: 24 }}>
            {color.de00.toFixed(1)}
          </Box>{" "}
          dE00 ±{color.uncertain_de00.toFixed(1)}
          <Why title="Difference" rules={color.rules} />
        </span>
      </Box>
      <Box sx={{ color: "text.secondary" }}>
        {color.seen !== "cannot_tell" && color.says ? `${color.says}; ` : ""}
        {MEANS[color.seen]}. Patches are approximate.
      </Box>
    </Box>
  );
}

/** Which of the composites that it may be built of come near, what each asks for in light, and from where each hides the dark
 * of the mouth. */
export function ColorChoices({ color, draft }: { color: ColorPlan; draft: Draft }) {
  const costs = useMatchCosts(draft.data, color.choices.length > 0).data;
  return (
    <Box component="section" aria-label="What comes near" sx={{ my: 1 }}>
      {color.choices.length > 0 && (
        <Box
          component="table"
          aria-label="Which of the selected composites come nearest"
          sx={{
            width: "100%",
            mt: 0.75,
            fontSize: 14,
            borderCollapse: "collapse",
            "& td, & th": { py: 0.25, pl: 0.75 },
          }}
        >
          <thead>
            <tr>
              <Box component="th" sx={{ textAlign: "left", fontWeight: 400 }}>
                selected, nearest first
              </Box>
              <Box component="th" sx={{ textAlign: "right", fontWeight: 400 }}>
                enamel / shell, mm
              </Box>
              <Box component="th" sx={{ textAlign: "right", fontWeight: 400 }}>
                dE00
              </Box>
              <Box component="th" sx={{ textAlign: "right", fontWeight: 400 }}>
                light / increments
              </Box>
            </tr>
          </thead>
          <tbody>
            {color.choices.map((one, at) => (
              <Box
                component="tr"
                key={one.composites.join()}
                sx={at === 0 ? { bgcolor: paper.verdigrisPale, fontWeight: 700 } : {}}
              >
                <td>{one.composites.join(" over ")}</td>
                <Box component="td" sx={{ textAlign: "right" }}>
                  {one.enamel_mm ? `${one.enamel_mm} / ${one.shell_mm}` : "alone"}
                </Box>
                <Box component="td" sx={{ textAlign: "right" }}>
                  {one.de00.toFixed(1)}
                </Box>
                <Box component="td" sx={{ textAlign: "right" }}>
                  <Cost cost={costs?.[at]} />
                </Box>
              </Box>
            ))}
          </tbody>
        </Box>
      )}
      <Box sx={{ fontSize: 14, color: "text.secondary", mt: 0.5 }}>
        Hides the dark of the mouth from{" "}
        {Object.entries(color.hides_mm)
          .map(([name, mm]) => `${name} ${mm === null ? "never" : `${mm.toFixed(1)} mm`}`)
          .join(", ")}
        .
      </Box>
    </Box>
  );
}

/** What a match asks for: seconds of light, in how many increments; a dash while that is not known yet. */
function Cost({ cost }: { cost: Schemas["MatchCost"] | undefined }) {
  if (!cost) return <>–</>;
  if (cost.refused) return <span title={cost.refused}>too dark</span>;
  return (
    <Box component="span" sx={{ whiteSpace: "nowrap" }}>
      {cost.cure_seconds} s / {cost.increments}
    </Box>
  );
}
