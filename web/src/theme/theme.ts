import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import { createTheme } from "@mui/material/styles";
import { components } from "./components";
import { paper } from "./tokens";

/** Ink on warm paper: square corners, no shadows, no ripple, no fading. */
export const theme = createTheme({
  palette: {
    mode: "light",
    background: { default: paper.desk, paper: paper.sheet },
    text: { primary: paper.ink, secondary: paper.soft },
    primary: { main: paper.verdigris, contrastText: paper.sheet },
    error: { main: paper.brick },
    warning: { main: paper.ochre },
    divider: paper.rule,
  },
  shape: { borderRadius: 2 },
  // Nothing fades: a colour on its way would paint the page anew at every frame of a drag.
  transitions: { create: () => "none" },
  typography: {
    fontFamily: '"Atkinson Hyperlegible Next", "DejaVu Sans", sans-serif',
    fontSize: 15,
    button: { textTransform: "none", fontWeight: 700 },
    h1: { fontSize: 26, fontWeight: 700 },
    h2: { fontSize: 18, fontWeight: 700 },
    body2: { fontSize: 14 },
  },
  components,
});
