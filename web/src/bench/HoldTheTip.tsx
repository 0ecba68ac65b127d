import Box from "@mui/material/Box";
import { Folded } from "../shell/Folded";
import type { Case, Schemas } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { numerals } from "../theme/tokens";
import { Why } from "./Why";
import { useHoldLessons } from "./queries";
import { type Light, lightOf } from "./told";

interface Props {
  data: Case;
  isSettled: boolean;
  /** Plans with the lamp held otherwise. */
  onHold: (light: Light) => void;
}

const HOW =
  "Calculates the increment with the lowest radiant exposure again, the light tilted to its worst side or farther away. Light: percent of what a straight tip gives. Time: rounded up to timer settings.";

/** What it costs to hold the tip aslant or away, once that is asked; each can be planned by. */
export function HoldTheTip({ data, isSettled, onHold }: Props) {
  const light = lightOf(data);
  if (!light) return null;
  const { tip_distance_mm, tip_tilt_deg } = light;
  const isHeldOtherwise = Boolean(tip_distance_mm) || Boolean(tip_tilt_deg);
  return (
    <Box component="section" aria-label="Effect of tip angle and distance" sx={numerals}>
      <Folded name={isHeldOtherwise ? heldAs(light) : "Effect of tip angle and distance"}>
        <Lessons data={data} light={light} isWanted={isSettled} onHold={onHold} />
      </Folded>
      {isHeldOtherwise && (
        <TextButton onPress={() => onHold({ ...light, tip_distance_mm: null, tip_tilt_deg: 0 })}>
          close and straight again
        </TextButton>
      )}
    </Box>
  );
}

interface LessonsProps {
  data: Case;
  light: Light;
  isWanted: boolean;
  onHold: Props["onHold"];
}

function Lessons({ data, light, isWanted, onHold }: LessonsProps) {
  const lessons = useHoldLessons(data, isWanted).data ?? [];
  const [first] = lessons;
  if (!first) return <Box sx={{ pb: 1, color: "text.secondary" }}>Calculating</Box>;
  return (
    <Box sx={{ pb: 0.5 }}>
      <Box sx={{ display: "flex", justifyContent: "space-between", color: "text.secondary" }}>
        <span>
          {first.portion}, where it gets least: {first.seconds_planned} s as planned
        </span>
        <Why title="How the tip is held" how={HOW} rules={first.rules} />
      </Box>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {lessons.map((lesson) => (
          <Box
            key={nameOf(lesson)}
            component="li"
            sx={{
              display: "grid",
              gridTemplateColumns: "1fr auto auto",
              gap: 1,
              alignItems: "center",
            }}
          >
            <span>{nameOf(lesson)}</span>
            <span>
              {(100 * lesson.share).toFixed(0)} % light, <strong>{wantedBy(lesson)}</strong>
            </span>
            <TextButton
              label={`plan with the tip ${nameOf(lesson)}`}
              onPress={() =>
                onHold({
                  ...light,
                  tip_distance_mm: lesson.tip_distance_mm || null,
                  tip_tilt_deg: lesson.tip_tilt_deg,
                  tip_lean: lesson.tip_lean as Light["tip_lean"],
                })
              }
            >
              use this
            </TextButton>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

type Lesson = Schemas["HoldLesson"];

function nameOf({ tip_tilt_deg, tip_distance_mm }: Lesson): string {
  return tip_tilt_deg ? `${tip_tilt_deg}° tilted` : `${tip_distance_mm} mm away`;
}

function wantedBy({ seconds }: Lesson): string {
  return seconds === null ? "dark" : `${seconds} s`;
}

function heldAs({ tip_distance_mm, tip_tilt_deg, tip_lean }: Light): string {
  const ways = [
    tip_distance_mm ? `${tip_distance_mm} mm away` : "",
    tip_tilt_deg ? `${tip_tilt_deg}° tilted to ${tip_lean}` : "",
  ];
  return `The tip is held ${ways.filter(Boolean).join(", ")}`;
}
