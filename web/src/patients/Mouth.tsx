import Box from "@mui/material/Box";
import { type ComponentProps, type ReactNode, useState } from "react";
import { Toggles } from "../shell/Toggles";
import { MouthChart } from "./MouthChart";
import { DENTITIONS, type Dentition } from "./teeth";

interface Props extends Omit<ComponentProps<typeof MouthChart>, "dentition"> {
  /** The dentition that is shown at first. */
  first: Dentition;
  /** What is said beside. */
  children?: ReactNode;
}

/** The mouth chart of a dentition that can be changed. */
export function Mouth({ first, children, ...chart }: Props) {
  const [dentition, setDentition] = useState(first);
  return (
    <>
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center" }}>
        <Toggles label="Dentition" value={dentition} options={DENTITIONS} onChange={setDentition} />
        <Box sx={{ color: "text.secondary" }}>{children}</Box>
      </Box>
      <MouthChart {...chart} dentition={dentition} />
    </>
  );
}
