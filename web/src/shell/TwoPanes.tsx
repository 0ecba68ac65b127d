import Box from "@mui/material/Box";
import { type ReactNode, useCallback } from "react";
import { NavLink } from "react-router";
import { numerals, paper } from "../theme/tokens";
import { Labelled } from "./Labelled";

interface Props {
  /** What the list is of. */
  label: string;
  searchName: string;
  search: string;
  onSearch: (text: string) => void;
  /** What else narrows the list. */
  filter: ReactNode;
  list: ReactNode;
  listWidth: number;
  /** Whether one of the list is shown: on a phone it then stands alone. */
  isOneShown: boolean;
  children: ReactNode;
}

/** A list to search on the left, what was picked of it on the right; each scrolls by itself. */
export function TwoPanes(props: Props) {
  const { label, searchName, search, onSearch, filter, list, listWidth, isOneShown } = props;
  return (
    <Box
      sx={{
        flex: { xs: 1, md: "none" },
        minHeight: 0,
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: `${listWidth}px minmax(0, 1fr)` },
        gridTemplateRows: { md: "minmax(0, 1fr)" },
        height: { md: "calc(100dvh - 50px)" },
      }}
    >
      <Box
        component="section"
        aria-label={label}
        sx={{
          display: { xs: isOneShown ? "none" : "flex", md: "flex" },
          flexDirection: "column",
          minHeight: 0,
          borderRight: { md: `1px solid ${paper.rule}` },
        }}
      >
        <Box sx={{ p: 2, pb: 1, display: "grid", gap: 1 }}>
          <Labelled
            name={searchName}
            type="search"
            width="100%"
            value={search}
            onChange={onSearch}
          />
          <Box sx={{ display: "flex", gap: 1, alignItems: "center", flexWrap: "wrap" }}>
            {filter}
          </Box>
        </Box>
        <Box component="nav" aria-label="Found" sx={{ overflow: "auto", px: 2, pb: 2 }}>
          {list}
        </Box>
      </Box>
      <Box sx={{ overflow: "auto", minWidth: 0 }}>{props.children}</Box>
    </Box>
  );
}

export function ListHeading({ children }: { children: ReactNode }) {
  return (
    <Box component="h2" sx={{ m: 0, mt: 1, mb: 0.5, fontSize: 16 }}>
      {children}
    </Box>
  );
}

interface LinkProps {
  to: string;
  isShown: boolean;
  columns: string;
  /** Set off on the left, as what the house has made its own. */
  isMarked?: boolean;
  children: ReactNode;
}

/** A row of the list; the one that is shown comes into view. */
export function ListLink({ to, isShown, columns, isMarked, children }: LinkProps) {
  const comeIntoView = useCallback(
    (link: HTMLElement | null) => link?.scrollIntoView({ block: "nearest" }),
    [],
  );
  return (
    <Box
      component={NavLink}
      to={to}
      ref={isShown ? comeIntoView : null}
      sx={{
        display: "grid",
        gridTemplateColumns: columns,
        columnGap: 1,
        alignItems: "center",
        minHeight: 44,
        px: 1,
        py: 0.5,
        color: "inherit",
        textDecoration: "none",
        bgcolor: isShown ? paper.sheet : "transparent",
        borderTop: `1px solid ${paper.rule}`,
        borderLeft: `4px solid ${isMarked ? paper.verdigris : "transparent"}`,
        outline: isShown ? `2px solid ${paper.ink}` : 0,
        outlineOffset: -2,
        ...numerals,
      }}
    >
      {children}
    </Box>
  );
}
