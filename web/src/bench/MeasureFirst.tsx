import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import type { Case } from "../api/client";
import { withUnit } from "../shell/units";
import { numerals, paper } from "../theme/tokens";
import { Why } from "./Why";
import { type Sway, useMeasureFirst } from "./queries";
import { useStill } from "./useLater";

// It takes two plans for every size that is not measured.
const STILL_MS = 2500;

interface Props {
  data: Case;
  isSettled: boolean;
  onMeasured: (path: string) => void;
}

/** The unmeasured size that would move the plan most, and how far. */
export function MeasureFirst({ data, isSettled, onMeasured }: Props) {
  const isStill = useStill(data, STILL_MS);
  const [first] = useMeasureFirst(data, isSettled && isStill).data ?? [];
  if (!first) return null;
  return (
    <Box
      component="section"
      aria-label="Measure first"
      data-measure-first={first.path}
      sx={{ border: `1.5px solid ${paper.ink}`, p: 1, mt: 1, fontSize: 15, ...numerals }}
    >
      <strong>Measure first:</strong> {first.title}. {swayInWords(first)}
      <Box className="no-print" sx={{ display: "flex", justifyContent: "space-between", mt: 0.5 }}>
        <Button size="small" variant="outlined" onClick={() => onMeasured(first.path)}>
          M&ensp;it is measured
        </Button>
        <Why
          title={`Measure first: ${first.title}`}
          how="The plan was made again at both ends of the range."
          rules={[first.rule]}
        />
      </Box>
    </Box>
  );
}

function swayInWords(sway: Sway): string {
  const range = `About ${sway.value} \u00b1 ${withUnit(((sway.high - sway.low) / 2).toFixed(1), sway.unit)}`;
  const [least = 0, most = 0] = sway.light_seconds;
  const [fewest = 0, all = 0] = sway.increments;
  const none = sway.no_plan_at.map((v) => withUnit(String(v), sway.unit)).join(" and ");
  const light = least === most ? "" : ` moves the light from ${least} to ${most} s`;
  const [few = 0, many = 0] = sway.supplies ?? [];
  const mixed =
    few === many
      ? ""
      : `${light ? " and" : " moves"} the ${sway.supplies_in} from ${few} to ${many}`;
  const cut =
    fewest === all
      ? ""
      : `${light || mixed ? " and" : " moves"} the increments from ${fewest} to ${all}`;
  const told = `${light}${mixed}${cut}`;
  return `${range}${none ? ` leaves no plan at ${none}${told ? "," : ""}` : ""}${told}.`;
}
