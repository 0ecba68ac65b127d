import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Why } from "../bench/Why";
import { numerals, paper } from "../theme/tokens";
import type { Lamp } from "./queries";
import { dayOf } from "../session/time";

type Table = NonNullable<Lamp["beam"]>["table"];

/** The table that one would tape to the wall; it is what the page prints. */
export function SecondsTable({ lamp, table }: { lamp: Lamp; table: Table }) {
  return (
    <Box component="section" aria-label="Seconds by composite and distance">
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2, flexWrap: "wrap" }}>
        <Box component="h2" sx={{ m: 0, fontSize: 18 }}>
          Seconds by composite and distance
        </Box>
        <Why
          title="Seconds by composite and distance"
          how="Radiant exposure required at the bottom of the largest increment, over the irradiance that reaches it straight under the tip, rounded up to timer settings. The manufacturer’s time counts where it is longer."
          rules={table.rules}
        />
        <Button className="no-print" sx={{ ml: "auto" }} onClick={() => window.print()}>
          Print for the wall
        </Button>
      </Box>
      <Box sx={{ overflowX: "auto" }}>
        <Box
          component="table"
          sx={{
            width: "100%",
            borderCollapse: "collapse",
            bgcolor: paper.sheet,
            border: `1.5px solid ${paper.ink}`,
            ...numerals,
            "& th, & td": {
              px: 1,
              py: 0.6,
              borderTop: `1px solid ${paper.rule}`,
              textAlign: "right",
              whiteSpace: "nowrap",
            },
            "& th:first-of-type": { textAlign: "left", whiteSpace: "normal" },
            "& td": { fontSize: 20, fontWeight: 700 },
          }}
        >
          <thead>
            <tr>
              <th scope="col">tip to surface</th>
              {table.distances_mm.map((mm) => (
                <th key={mm} scope="col">
                  {mm} mm
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => (
              <tr key={row.mass}>
                <th scope="row">
                  {row.mass} <span style={{ fontWeight: 400 }}>{row.depth_mm} mm</span>
                </th>
                {row.seconds.map((seconds, i) => (
                  <td key={table.distances_mm[i]}>
                    {seconds ?? (
                      <span style={{ fontSize: 14, fontWeight: 400 }}>thinner increments</span>
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
      <Box sx={{ fontSize: 14, color: "text.secondary", mt: 0.5 }}>
        Seconds for {lamp.name}, measured{" "}
        {lamp.last_read_on ? `on ${dayOf(lamp.last_read_on)}` : "never"}. Valid only for full
        output, perpendicular to an unobstructed surface. In a cavity use the plan: walls, matrix
        and tilt reduce light. &ldquo;thinner increments&rdquo;: one exposure is not enough.
      </Box>
    </Box>
  );
}
