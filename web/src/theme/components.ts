import type { Components } from "@mui/material/styles";
import { paper } from "./tokens";

/** How the library's parts look here: ink on paper, square, large enough for a gloved hand. */
export const components: Components = {
  MuiCssBaseline: {
    styleOverrides: {
      "*:focus-visible": { outline: `3px solid ${paper.beam}`, outlineOffset: 1 },
      // A picture in mm: an outline would be as many mm wide.
      "svg.in-mm [tabindex]:focus": { outline: "none" },
      "svg.in-mm [tabindex]:focus-visible > path": {
        stroke: paper.beam,
        strokeWidth: 3,
        vectorEffect: "non-scaling-stroke",
      },
      "@page bench": { size: "A4 landscape", margin: "8mm" },
      "@media print": { "header, .no-print": { display: "none !important" } },
    },
  },
  MuiButtonBase: { defaultProps: { disableRipple: true } },
  MuiButton: {
    defaultProps: { disableElevation: true },
    styleOverrides: { root: { minHeight: 40, borderWidth: 1.5 } },
  },
  MuiPaper: { defaultProps: { elevation: 0, square: true } },
  MuiPopover: { defaultProps: { elevation: 0 } },
  MuiToggleButton: {
    styleOverrides: {
      root: {
        minHeight: 42,
        padding: "6px 12px",
        fontSize: 15,
        fontWeight: 400,
        textTransform: "none",
        color: paper.ink,
        border: `1.5px solid ${paper.verdigris}`,
        "&.Mui-selected, &.Mui-selected:hover": {
          backgroundColor: paper.ink,
          color: paper.sheet,
          borderColor: paper.ink,
          fontWeight: 700,
        },
      },
    },
  },
  MuiTabs: {
    styleOverrides: {
      root: { minHeight: 46 },
      list: { gap: 6 },
      indicator: { display: "none" },
      scrollButtons: {
        width: 32,
        border: `1.5px solid ${paper.rule}`,
        "&.Mui-disabled": { display: "none" },
      },
    },
  },
  MuiTab: {
    styleOverrides: {
      root: {
        minHeight: 46,
        minWidth: 0,
        padding: "2px 10px",
        alignItems: "flex-start",
        fontSize: 15,
        fontWeight: 700,
        lineHeight: 1.3,
        textTransform: "none",
        color: paper.ink,
        opacity: 1,
        backgroundColor: paper.sheet,
        border: `1.5px solid ${paper.verdigris}`,
        "&.Mui-selected": {
          backgroundColor: paper.ink,
          color: paper.sheet,
          borderColor: paper.ink,
        },
      },
    },
  },
  MuiOutlinedInput: {
    styleOverrides: {
      root: { backgroundColor: paper.sheet },
      notchedOutline: { borderColor: paper.verdigris, borderWidth: 1.5 },
      input: { fontSize: 17, fontWeight: 700 },
    },
  },
  MuiSelect: { styleOverrides: { select: { fontSize: 15, fontWeight: 700 } } },
  MuiMenuItem: { styleOverrides: { root: { minHeight: 44 } } },
  MuiMenu: { styleOverrides: { paper: { border: `1.5px solid ${paper.ink}` } } },
  MuiInputLabel: { styleOverrides: { root: { color: paper.soft } } },
  MuiFormHelperText: { styleOverrides: { root: { marginLeft: 2, fontSize: 14 } } },
  MuiDialog: {
    styleOverrides: { paper: { border: `2px solid ${paper.ink}`, backgroundColor: paper.sheet } },
  },
  MuiTableCell: {
    styleOverrides: {
      root: { borderBottom: `1px solid ${paper.rule}`, fontSize: 15, padding: "10px 12px" },
      head: { color: paper.soft, fontWeight: 400 },
    },
  },
  MuiAccordion: {
    styleOverrides: {
      root: {
        marginTop: 8,
        border: `1px solid ${paper.rule}`,
        backgroundColor: "transparent",
        fontSize: 15,
        "&::before": { display: "none" },
      },
    },
  },
  MuiAccordionSummary: {
    styleOverrides: {
      root: {
        minHeight: 40,
        padding: "0 8px",
        flexDirection: "row-reverse",
        gap: 8,
        fontFamily: "inherit",
        fontSize: 15,
        fontWeight: 700,
      },
      content: { margin: "8px 0" },
      expandIconWrapper: {
        color: paper.ink,
        transition: "none",
        "&.Mui-expanded": { transform: "rotate(90deg)" },
      },
    },
  },
  MuiAccordionDetails: { styleOverrides: { root: { padding: "0 8px 8px" } } },
  MuiAlert: {
    styleOverrides: {
      root: { border: `1.5px solid ${paper.rule}`, backgroundColor: paper.sheet, color: paper.ink },
    },
  },
};
