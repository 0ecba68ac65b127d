import Box from "@mui/material/Box";
import type { Case, Schemas } from "../api/client";
import { type Mode, modeName } from "../lights/words";
import { Choice } from "../shell/Choice";
import { TextButton } from "../shell/TextButton";
import { Verdict } from "../shell/Verdict";
import { useLights } from "./queries";
import { type Light, lightOf } from "./told";

interface Props {
  data: Case;
  onPick: (light: Light | undefined) => void;
}

/** Which of the practice's curing lights the plan goes by, and with which output. */
export function LampPicker({ data, onPick }: Props) {
  const lights = useLights();
  const light = lightOf(data);
  if (!lights.data) return null;
  const options = lights.data.map((l) => ({ value: l.name, name: l.name }));
  const lamp = lights.data.find((l) => l.name === light?.name);
  return (
    <Box sx={{ display: "flex", columnGap: 1.5, flexWrap: "wrap" }}>
      <div>
        <Box sx={{ fontSize: 14, lineHeight: 1.2, color: "text.secondary" }}>curing light</Box>
        <Choice
          label="Curing light"
          value={light?.name ?? ""}
          options={options}
          onChange={(name) =>
            onPick(lights.data.find((l) => l.name === name)?.case_part as Light | undefined)
          }
        />
      </div>
      {light && lamp && lamp.output_modes.length > 0 && (
        <OutputPicker light={light} lamp={lamp} onPick={onPick} />
      )}
    </Box>
  );
}

/** What is to be said of the curing light that the plan goes by. */
export function LampFlags({ data, onPick }: Props) {
  const lights = useLights();
  const light = lightOf(data);
  const lamp = lights.data?.find((l) => l.name === light?.name);
  if (!light || !lamp) return null;
  const isOld = isReadSince(light, lamp.case_part);
  if (lamp.flags.length === 0 && !isOld) return null;
  return (
    <Box sx={{ mt: 1, fontSize: 15 }}>
      <Box component="ul" aria-label="Curing light" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {lamp.flags.map((f) => (
          <Verdict key={f.code} verdict={f.level === "stop" ? "fail" : "caution"} text={f.text} />
        ))}
      </Box>
      {isOld && (
        <span>
          Read again since.{" "}
          <TextButton
            onPress={() => onPick({ ...light, readings: lamp.case_part.readings as Readings })}
          >
            Take the new readings
          </TextButton>
        </span>
      )}
    </Box>
  );
}

const FULL: Mode = { kind: "full" };

/** How the lamp's output goes during a press, of what it offers. */
function OutputPicker({ light, lamp, onPick }: OutputProps) {
  const modes: Mode[] = [FULL, ...lamp.output_modes];
  const options = modes.map((mode) => ({ value: JSON.stringify(mode), name: modeName(mode) }));
  return (
    <div>
      <Box sx={{ fontSize: 14, lineHeight: 1.2, color: "text.secondary" }}>output</Box>
      <Choice
        label="Output"
        value={JSON.stringify(light.output_mode ?? FULL)}
        options={options}
        onChange={(chosen) => onPick({ ...light, output_mode: JSON.parse(chosen) as Mode })}
      />
    </div>
  );
}

interface OutputProps {
  light: Light;
  lamp: Schemas["LightOut"];
  onPick: Props["onPick"];
}

type Readings = Light["readings"];

/** Whether the lamp was read since the readings that the case counts on; on the same day others count. */
export function isReadSince(light: Light, now: Record<string, unknown>): boolean {
  const newest = now.readings as Readings;
  const then = light.readings.filter((r) => dayOf(r) === lastOf(light.readings));
  const isSame = JSON.stringify(newest.map(told)) === JSON.stringify(then.map(told));
  return lastOf(newest) >= lastOf(then) && lastOf(newest) !== "" && !isSame;
}

function told(r: Readings[number]) {
  return [dayOf(r), r.distance_mm, r.irradiance_mw_cm2];
}

function dayOf(r: Readings[number]): string {
  return (r.taken_at ?? "").slice(0, 10);
}

function lastOf(readings: Readings): string {
  return readings.map(dayOf).sort().at(-1) ?? "";
}
