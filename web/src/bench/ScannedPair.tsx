import Box from "@mui/material/Box";
import { useState } from "react";
import { Folded } from "../shell/Folded";
import type { Case, Problem } from "../api/client";
import { Problems } from "../shell/PickCsv";
import { TextButton } from "../shell/TextButton";

type Scan = NonNullable<Case["preparation"]["scan"]>;

interface Props {
  data: Case;
  problems: Problem[];
  onScan: (scan: Scan | undefined) => void;
}

const TIMES = ["before", "after"] as const;

/** The tooth scanned before and after cutting: planning goes on from what lies between. */
export function ScannedPair({ data, problems, onScan }: Props) {
  const [picked, setPicked] = useState<Partial<Scan>>({});
  const { scan } = data.preparation;

  function take(time: (typeof TIMES)[number], file: string) {
    const pair = { ...scan, ...picked, [time]: file };
    setPicked(pair);
    if (pair.before && pair.after) onScan({ before: pair.before, after: pair.after });
  }

  return (
    <Box component="section" aria-label="Scanned pair">
      <Folded name="Scanned pair" isOpen={scan !== undefined && scan !== null}>
        <Box sx={{ color: "text.secondary", fontSize: 14 }}>
          STL or PLY in mm, in the tooth’s frame. The measures go on telling floors and margins.
        </Box>
        {TIMES.map((time) => (
          <Box component="label" key={time} sx={{ display: "block", py: 0.75 }}>
            {time} cutting{" "}
            <input
              type="file"
              accept=".stl,.ply"
              style={{ maxWidth: "100%" }}
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) void inBase64(file).then((text) => take(time, text));
              }}
            />
          </Box>
        ))}
        <Problems problems={problems.filter((p) => p.path.startsWith("preparation.scan"))} />
        {scan && (
          <TextButton
            label="Leave the scans out"
            onPress={() => {
              setPicked({});
              onScan(undefined);
            }}
          >
            Leave the scans out
          </TextButton>
        )}
      </Folded>
    </Box>
  );
}

/** Returns what is in a file as base64. */
function inBase64(file: File): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve((reader.result as string).split(",")[1] ?? "");
    reader.onerror = () => reject(reader.error ?? new Error("The file cannot be read."));
    reader.readAsDataURL(file);
  });
}
