import Box from "@mui/material/Box";
import type { Plan } from "../api/client";
import { shown } from "../shell/units";
import { numerals, paper } from "../theme/tokens";

interface Props {
  increments: Plan["increments"];
  selected: number | null;
  onSelect: (order: number) => void;
}

/** What is placed, in its order, with the numbers that each has; a row is picked as in the drawing. */
export function Increments({ increments, selected, onSelect }: Props) {
  const columns = increments[0]?.measures ?? [];
  return (
    <Box
      component="table"
      aria-label="In order of placement"
      sx={{ width: "100%", borderCollapse: "collapse", my: 1, fontSize: 14, ...numerals }}
    >
      <thead>
        <Box component="tr" sx={{ color: "text.secondary", "& th": { fontWeight: 400 } }}>
          <Box component="th" sx={{ textAlign: "left" }}>
            in order
          </Box>
          {columns.map((m) => (
            <Box component="th" key={m.id} sx={{ textAlign: "right", pl: 0.75 }}>
              {m.title}
              {m.unit && (
                <>
                  <br />
                  {m.unit}
                </>
              )}
            </Box>
          ))}
        </Box>
      </thead>
      <tbody>
        {increments.map((one) => {
          const on = one.order === selected;
          return (
            <Box
              component="tr"
              key={one.order}
              aria-selected={on}
              onClick={() => onSelect(one.order)}
              sx={{
                cursor: "pointer",
                bgcolor: on ? paper.verdigrisPale : undefined,
                fontWeight: on ? 700 : undefined,
                "& td": { borderTop: `1px solid ${paper.rule}`, py: 1, verticalAlign: "top" },
              }}
            >
              <td>
                {one.order} {one.name}
              </td>
              {one.measures.map((m) => (
                <Box component="td" key={m.id} title={m.why} sx={{ textAlign: "right", pl: 0.75 }}>
                  {shown(m.value)}
                </Box>
              ))}
            </Box>
          );
        })}
      </tbody>
    </Box>
  );
}
