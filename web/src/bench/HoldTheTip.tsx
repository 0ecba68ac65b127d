import Box from "@mui/material/Box";
import type { Case, Schemas } from "../api/client";
import { TextButton } from "../shell/TextButton";
import { numerals, paper } from "../theme/tokens";
import { useHoldLessons } from "./queries";

interface Props {
  data: Case;
  isSettled: boolean;
  /** Plans with the lamp held otherwise. */
  onHold: (light: Case["light"]) => void;
}

/** What it costs to hold the tip aslant or away, at the weakest point; each can be planned by. */
export function HoldTheTip({ data, isSettled, onHold }: Props) {
  const lessons = useHoldLessons(data, isSettled).data;
  const { tip_distance_mm, tip_tilt_deg, tip_lean } = data.light;
  const isHeldOtherwise = Boolean(tip_distance_mm) || Boolean(tip_tilt_deg);
  if (!lessons?.[0]) return null;
  return (
    <Box
      component="section"
      aria-label="Hold the tip close and straight"
      sx={{ mt: 1, p: 1, border: `1px solid ${paper.rule}`, fontSize: 15, ...numerals }}
    >
      <strong>{isHeldOtherwise ? heldAs(data.light) : "Hold the tip close and straight"}</strong>
      <Box sx={{ color: "text.secondary", fontSize: 14 }}>
        At the weakest point: {lessons[0].portion}
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
              label={`plan so: the tip ${nameOf(lesson)}`}
              onPress={() =>
                onHold({
                  ...data.light,
                  tip_distance_mm: lesson.tip_distance_mm || null,
                  tip_tilt_deg: lesson.tip_tilt_deg,
                  tip_lean: lesson.tip_lean as Case["light"]["tip_lean"],
                })
              }
            >
              plan so
            </TextButton>
          </Box>
        ))}
      </Box>
      {isHeldOtherwise && (
        <TextButton
          onPress={() =>
            onHold({ ...data.light, tip_distance_mm: null, tip_tilt_deg: 0, tip_lean: tip_lean })
          }
        >
          close and straight again
        </TextButton>
      )}
    </Box>
  );
}

type Lesson = Schemas["HoldLesson"];

function nameOf({ tip_tilt_deg, tip_distance_mm }: Lesson): string {
  return tip_tilt_deg ? `${tip_tilt_deg}° aslant` : `${tip_distance_mm} mm away`;
}

function wantedBy({ seconds }: Lesson): string {
  return seconds === null ? "dark" : `${seconds} s`;
}

function heldAs({ tip_distance_mm, tip_tilt_deg, tip_lean }: Case["light"]): string {
  const ways = [
    tip_distance_mm ? `${tip_distance_mm} mm away` : "",
    tip_tilt_deg ? `${tip_tilt_deg}° aslant to ${tip_lean}` : "",
  ];
  return `The tip is held ${ways.filter(Boolean).join(", ")}`;
}
