"""The plan and its pieces: figures, decisions, checks, cautions, steps, increments.

Every piece that the user reads can say why: the rules that acted and the inputs that were used.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

from pydantic import ConfigDict, Field

from mallet.terms.asks import Ask, Comparison, Measurement
from mallet.terms.color_plan import ColorPlan
from mallet.terms.increments import Increment
from mallet.terms.pieces import Piece, Point, Reason, RuleUse

Verdict = Literal["pass", "caution", "fail"]
Actor = Literal["dentist", "assistant", "both"]


class InputUse(Piece):
    """An input as it was used and how it is known."""

    path: str
    title: str
    value: Any
    unit: str
    provenance: Literal["measured", "estimated", "handbook"]


class Figure(Piece):
    """A number for the user, with the rules and inputs that made it, and the steps that it stands for."""

    id: str
    title: str
    value: float
    unit: str
    detail: str
    how: str
    rules: list[RuleUse]
    inputs: list[InputUse]
    steps: list[str] = []


class Argument(Piece):
    """What speaks for or against an option, and how much."""

    text: str
    points: float
    rule: RuleUse


class Limit(Piece):
    """What forbids an option, or bids care with it, and on whose authority."""

    stops: bool
    text: str
    authority: str


class Option(Piece):
    """One of several ways, with every reason for and against it. `wins_without` is what would have to be
    otherwise for the second to come first; one that `can_be_planned` is a restorative of this tool. `lasts` is what of such
    restorations is replaced in a year, as published with its limits, where a figure is known."""

    id: str
    name: str
    points: float
    is_stopped: bool
    speaks_for: list[Argument]
    speaks_against: list[Argument]
    limits: list[Limit]
    wins_without: str | None = None
    can_be_planned: bool = False
    lasts: RuleUse | None = None


class Miss(Piece):
    """Something in stock that would not do, why, and by how much, unless it is of another kind."""

    name: str
    reasons: list[Reason]
    off_mm: float | None


class Decision(Piece):
    """What was decided, under a heading that says what it is about; `options` are ranked, where they were weighed; `missed`
    are the nearest first."""

    topic: str
    about: str = ""
    chosen: str
    alternatives: list[str]
    reasons: list[Reason]
    options: list[Option] = []
    missed: list[Miss] = []
    rules: list[RuleUse] = []


class Check(Piece):
    """A measured value held against a needed one, with the remedy when it fails; `place` is where in the tooth
    it was measured."""

    topic: str
    title: str
    measured: float
    needed: float
    relation: Literal["at_least", "at_most"]
    unit: str
    verdict: Verdict
    remedy: str
    where: str
    rules: list[RuleUse] = []
    place: Point | None = None


class Caution(Piece):
    """What to be careful with; one that is said `always`, of every plan, alarms nobody."""

    level: Literal["note", "caution", "stop"]
    code: str
    params: dict[str, Any]
    text: str
    authority: str
    rules: list[RuleUse] = []
    always: bool = False


class Assumption(Piece):
    """Something absent from the case that was filled in."""

    path: str
    value: Any
    unit: str
    provenance: Literal["estimated", "handbook"]
    why: str


# What a step is to others: which one tests the matrix's seal, cools, lights what a band shaded, lets it set, or mixes it.
StepRole = Literal["seal", "cooling", "after_band", "set", "mix"]


class StepCheck(Piece):
    question: str
    remedy: str
    back_to: str | None = None


class Within(Piece):
    """A step must start at most so many seconds after another one ends; as `no_sooner`, at least so many. `text` says what
    runs out, where that is not being open to the light, and `late` what is done once it has."""

    step: str
    seconds: float
    rule: RuleUse | None = None
    text: str = ""
    late: str = ""


class Wet(Piece):
    """What wet undoes while a step is done, or a mix that is too old: the steps to do again, in order, before going on."""

    redo: list[str]
    reason: Reason


class Pieces(Piece):
    """Pieces that are placed one after another: what they are called, which of all comes first and how many are placed now,
    of about how many; passes over each, and the strokes of one pass; where each is heated first, for how long and how long it
    is clean then."""

    name: str
    first: int
    count: int
    of: int
    passes: int
    strokes: int
    heat_s: float | None = None
    clean_s: float | None = None


class Rhythm(Piece):
    """A counted beat of the hand: so many strokes, so many a minute; `pieces` where what is placed comes piece by piece."""

    count: int
    per_minute: float
    pieces: Pieces | None = None


class Target(Piece):
    """A figure that is measured while a step is done, and typed, a height with its sign: what it was before, what it is to be, between which it is
    good, and what is done under and over that; how far apart the figures are that may be tapped. `place` is where it lies in the
    tooth, `ends` are those of the line that it is held against."""

    id: str
    title: str
    detail: str
    unit: str
    before: float | None = None
    value: float
    low: float
    high: float
    under: str
    over: str
    is_height: bool = True
    interval: float = 0.1
    place: Point | None = None
    ends: list[Point] = []
    rules: list[RuleUse] = []
    inputs: list[InputUse] = []


class CuringCycle(Piece):
    """One cycle of the curing light: where the light comes from and how long it lasts (s)."""

    source: str
    seconds: float


class Step(Piece):
    """What one or both people do at once; the id is semantic and survives a new plan. A step under the
    light lists its curing cycles in order. Its seconds come from a rule or from what stands in stock."""

    id: str
    stage: str
    title: str
    detail: str
    actor: Actor
    seconds: float
    timed: bool = False
    light: bool = False
    presses: list[CuringCycle] = []
    rhythm: Rhythm | None = None
    targets: list[Target] = []
    tray: list[str] = []
    hold: Literal["preparation", "finished"] | None = None
    role: StepRole | None = None
    device: Literal["mixer", "annealer"] | None = None
    check: StepCheck | None = None
    after: list[str] = []
    within: list[Within] = []
    no_sooner: list[Within] = []
    increment: int | None = None
    wet: Wet | None = None
    stale: Wet | None = None
    seconds_rule: RuleUse | None = None
    seconds_input: InputUse | None = None
    start_s: float = 0.0
    end_s: float = 0.0


class Want(Piece):
    """Something from stock that the plan counts on; without a name there is none there that would do."""

    kind: str
    text: str
    name: str | None = None
    lot: str | None = None


StageId = Literal[
    "assess", "shade", "choose", "isolate", "prepare", "protect", "matrix", "bond", "lamp", "build", "finish", "warmth"
]  # fmt: skip
# The order in which a plan tells its stages.
STAGES: tuple[StageId, ...] = get_args(StageId)


class StageResult(Piece):
    """What one stage of the order of work, or a part of it, adds to the plan; `says` sums it up, else its first decision
    does."""

    stage: StageId | None = None
    says: str = ""
    decisions: list[Decision] = []
    checks: list[Check] = []
    figures: list[Figure] = []
    steps: list[Step] = []
    cautions: list[Caution] = []
    wants: list[Want] = []
    assumptions: list[Assumption] = []

    def as_stage(self, stage: StageId) -> StageResult:
        return self.model_copy(update={"stage": stage})

    @property
    def place(self) -> int:
        """Return its place in the order in which a plan tells its stages; raise ValueError for a part of one."""
        return STAGES.index(self.stage)


class Bracket(Piece):
    """What holds from the end of one step to the end of another."""

    model_config = ConfigDict(extra="forbid", frozen=True, validate_by_name=True, validate_by_alias=True)

    start: str = Field(alias="from")
    end: str = Field(alias="to")
    text: str
    kind: Literal["dry", "working", "setting", "carving"]


class Supply(Piece):
    """Something that is opened or mixed for the work: how many, when it is ready and until when it serves (s from the
    start), and for which increments. Of what leaves scrap that is kept apart, `mass_mg` is what each makes."""

    kind: str
    name: str
    lot: str | None = None
    count: int
    starts_s: float
    expires_s: float | None = None
    increments: list[int]
    mass_mg: float | None = None
    counted_in: str = "capsules"


class PlanStage(Piece):
    """A stage of the order of work: what it says in short, how it stands, what it decided and checked, by topic, and what
    it asks for. Where there is no plan it only asks."""

    id: StageId
    name: str
    says: str = ""
    verdict: Verdict | None = None
    decisions: list[str] = []
    checks: list[str] = []
    asks: list[Ask] = []


LaterPurpose = Literal["band_off", "polish", "review"]


class LaterVisit(Piece):
    """What is done for a restoration at a visit of its own, once it is placed: from when, and best by when (h after it was
    finished), why, and its steps in order of doing."""

    purpose: LaterPurpose
    name: str
    from_h: float
    by_h: float | None = None
    reason: Reason
    rules: list[RuleUse]
    steps: list[Step]


class PartGeometry(Piece):
    kind: str
    nominal_volume_mm3: float
    side: str | None = None


class Geometry(Piece):
    volume_mm3: float
    mass_g: float
    parts: list[PartGeometry]
    remaining_dentin_mm: float | None
    bonded_area_mm2: float
    ridge_height_mm: dict[str, float]
    cusps: list[str]


class Totals(Piece):
    increments: int
    cure_seconds: float
    light_seconds: float
    chair_minutes: float


class Plan(Piece):
    """A plan. Work may not start before what is wanted before it has been told."""

    format: Literal["mallet-plan/2"] = "mallet-plan/2"
    feasible: Literal[True] = True
    engine: str
    rulebook: str
    case_sha256: str
    may_start: bool = True
    wanted_before: list[Reason] = []
    tooth: dict[str, str]
    assumptions: list[Assumption]
    geometry: Geometry
    decisions: list[Decision]
    checks: list[Check]
    cautions: list[Caution]
    figures: list[Figure]
    increments: list[Increment]
    totals: Totals
    wants: list[Want]
    steps: list[Step]
    later: list[LaterVisit] = []
    stages: list[PlanStage]
    measurements: list[Measurement]
    comparisons: list[Comparison] = []
    brackets: list[Bracket] = []
    supplies: list[Supply] = []
    color: ColorPlan | None = None


class Design(Piece):
    """A set of parts that would hold a restoration: what it is called, the parts that are cut besides, and what it comes to."""

    name: str
    parts: list[dict[str, Any]]
    says: str


class Sway(Piece):
    """How far an unmeasured size moves the plan within its range: least and most of light seconds, increments and what is
    opened or mixed, over the ends and the value itself, and the ends where there is no plan."""

    path: str
    title: str
    value: float
    unit: str
    low: float
    high: float
    light_seconds: tuple[float, float]
    increments: tuple[float, float]
    supplies: tuple[float, float] = (0.0, 0.0)
    supplies_in: str = "capsules"
    no_plan_at: list[float]
    rule: RuleUse


class HoldLesson(Piece):
    """What holding the tip so does to the increment with the lowest radiant exposure: the share of light that is left of a straight
    tip's, and the seconds it then wants; None where no light is left."""

    tip_distance_mm: float
    tip_tilt_deg: float
    tip_lean: str
    portion: str
    share: float
    seconds: float | None
    seconds_planned: float
    rules: list[RuleUse]


class LightLine(Piece):
    """A line of equal multiples of the required exposure through an increment, in one of the drawing's sections: points
    [x, z] of `section` and [y, z] of the others, mm."""

    view: Literal["section", "across_mesial", "across_distal", "through", "level"]
    order: int
    times_need: float
    points: list[list[float]]


class NoPlan(Piece):
    """The answer when no plan exists for a sound case; `options` are the other ways, where what was asked for
    is forbidden."""

    format: Literal["mallet-plan/2"] = "mallet-plan/2"
    feasible: Literal[False] = False
    engine: str
    rulebook: str
    case_sha256: str
    requirement: Reason
    nearest: dict[str, Any]
    options: list[Option] = []
    stages: list[PlanStage] = []
