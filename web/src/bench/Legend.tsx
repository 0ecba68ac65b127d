import Box from "@mui/material/Box";
import { Folded } from "../shell/Folded";
import { SheetDrawing } from "../drawing/SheetDrawing";
import type { Orientation, Sheet } from "../drawing/geometry";

/** A small drawing of one thing, painted as it is in the large one. */
const WIDTH = 64;
const HEIGHT = 28;
const SCALE = 7;
const AROUND = { x0: 0, x1: 8, y0: 0, y1: 3.5 };
const PLAIN: Orientation = { mirrored: false, upper: false };
const AREA: Sheet["shapes"][number]["rings"] = [
  [
    [0.5, 0.5],
    [7.5, 0.5],
    [7.5, 3],
    [0.5, 3],
  ],
];
const LINE: Sheet["shapes"][number]["rings"] = [
  [
    [0.5, 1.75],
    [7.5, 1.75],
  ],
];

/** What a drawing is made of, in words: a shape by role and material, a line by material, a mark by its id. */
const SHAPES: [role: string, material: string, name: string][] = [
  ["tooth", "enamel", "enamel"],
  ["tooth", "dentin", "dentin"],
  ["tooth", "pulp", "pulp"],
  ["neighbour", "enamel", "adjacent tooth"],
  ["base", "base", "base"],
  ["increment", "", "increment, numbered in the order of placement"],
  ["band", "sectional", "sectional metal band"],
  ["band", "circumferential", "circumferential metal band"],
  ["band", "copper", "copper band"],
  ["band", "clear", "clear band"],
  ["wedge", "wedge", "wedge"],
  ["pin", "metal", "pin"],
  ["cavity", "air", "cavity"],
];
const LINES: [material: string, name: string][] = [
  ["outline", "contour of the finished tooth"],
  ["cervical", "cementoenamel junction"],
  ["floor", "edge of a floor or of a covered cusp"],
  ["sight", "line that a cusp is held against"],
  ["target", "height to carve to"],
  ["contour", "height lines, occlusal"],
];
const MARKS: [id: string, name: string][] = [
  ["worst", "point of lowest radiant exposure"],
  ["check.", "place of a check that did not pass"],
];

/** Explains what the drawing shows, each as it is painted there. */
export function Legend({ sheets }: { sheets: readonly Sheet[] }) {
  return (
    <Box component="section" aria-label="Legend">
      <Folded name="Legend">
        <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, pb: 1 }}>
          {rowsOf(sheets).map(({ name, sheet }) => (
            <Box component="li" key={name} sx={{ display: "flex", gap: 1, alignItems: "center" }}>
              <SheetDrawing
                sheet={sheet}
                orientation={PLAIN}
                width={WIDTH}
                height={HEIGHT}
                box={AROUND}
                scale={SCALE}
                hasScaleBar={false}
                selected={null}
              />
              <span>{name}</span>
            </Box>
          ))}
          <li>
            Round handles end a length that can be dragged; lengths are in mm. Violet is light, the
            dark bar over it the tip of the curing light.
          </li>
        </Box>
      </Folded>
    </Box>
  );
}

interface Row {
  name: string;
  sheet: Sheet;
}

/** Returns a row for each thing that some sheet shows. */
export function rowsOf(sheets: readonly Sheet[]): Row[] {
  const shapes = sheets.flatMap((sheet) => sheet.shapes);
  const lines = sheets.flatMap((sheet) => sheet.lines);
  const marks = sheets.flatMap((sheet) => sheet.marks);
  const rows: Row[] = [];
  for (const [role, material, name] of SHAPES) {
    const found = shapes.find((s) => s.role === role && (!material || s.material === material));
    if (found) rows.push({ name, sheet: only({ shapes: [{ ...found, rings: AREA }] }) });
  }
  for (const [material, name] of LINES) {
    const found = lines.find((line) => line.material === material);
    if (found) rows.push({ name, sheet: only({ lines: [{ ...found, rings: LINE }] }) });
  }
  for (const [id, name] of MARKS) {
    const found = marks.find((mark) => mark.id.startsWith(id));
    const shown = found && { ...found, at: [4, 1.75], text: "" };
    if (shown) rows.push({ name, sheet: only({ marks: [shown] }) });
  }
  return rows;
}

function only(part: Partial<Sheet>): Sheet {
  const nothing = { shapes: [], lines: [], dimensions: [], marks: [] };
  // In a section numbers, lines and marks all show, down to its foot.
  return {
    view: "section",
    title: "part of the legend",
    axes: ["y", "z"],
    ...nothing,
    ...part,
  } as Sheet;
}
