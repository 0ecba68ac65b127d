import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link, NavLink, Outlet } from "react-router";
import { useSession, useSignOut } from "../session/queries";
import { apart, paper } from "../theme/tokens";

interface Named {
  to: string;
  name: string;
  isOver?: boolean;
}

const PEOPLE: Named = { to: "/people", name: "People", isOver: true };
const PLACES: Named[] = [
  { to: "/", name: "Today" },
  { to: "/patients", name: "Patients", isOver: true },
  { to: "/lights", name: "Curing lights", isOver: true },
  { to: "/records", name: "Records" },
  { to: "/stock", name: "Stock", isOver: true },
  { to: "/shades", name: "Shades" },
  { to: "/rules", name: "Rulebook", isOver: true },
];

/** What a tablet has no room for. */
const AT_A_DESK = { display: { xs: "none", lg: "inline" } };

/** The header and the view below it. */
export function Shell() {
  const { data: session } = useSession();
  const signOut = useSignOut();
  const user = session?.user;
  return (
    <Box sx={{ minHeight: "100dvh", display: "flex", flexDirection: "column" }}>
      <Box
        component="header"
        sx={{
          ...apart,
          minHeight: 48,
          px: 2,
          display: "flex",
          flexWrap: "wrap",
          alignItems: "center",
          columnGap: { xs: 1.5, lg: 3 },
          bgcolor: paper.sheet,
          borderBottom: `2px solid ${paper.ink}`,
        }}
      >
        <Box sx={{ fontWeight: 700, fontSize: 18, display: "flex", gap: 1, alignItems: "center" }}>
          <svg width="15" height="18" viewBox="0 0 15 18" aria-hidden="true">
            <path d="M0 1h15v7H0zM6 8h3v10H6z" fill={paper.ink} />
          </svg>
          Apt Mallet
        </Box>
        <Box
          component="nav"
          aria-label="Views"
          sx={{
            display: "flex",
            gap: 0.5,
            // On a phone a row of its own below the name.
            order: { xs: 1, sm: 0 },
            width: { xs: "100%", sm: "auto" },
            overflowX: "auto",
          }}
        >
          {[...PLACES, ...(user?.is_owner ? [PEOPLE] : [])].map((place) => (
            <NavLink
              key={place.to}
              to={place.to}
              end={!place.isOver}
              style={({ isActive }) => ({
                padding: "10px clamp(6px, 1.8vw, 10px) 7px",
                color: isActive ? paper.ink : paper.soft,
                borderBottom: `3px solid ${isActive ? paper.verdigris : "transparent"}`,
                textDecoration: "none",
                whiteSpace: "nowrap",
                fontWeight: isActive ? 700 : 400,
              })}
            >
              {place.name}
            </NavLink>
          ))}
        </Box>
        <Box
          sx={{
            ml: "auto",
            color: "text.secondary",
            fontSize: 14,
            display: { xs: "none", sm: "block" },
          }}
        >
          <Box component="span" sx={AT_A_DESK}>
            {user?.role}{" "}
          </Box>
          <Box component={Link} to="/own" sx={{ color: "inherit" }}>
            {user?.full_name}
          </Box>
          <Box component="span" sx={AT_A_DESK}>
            {" "}
            · {user?.practice}
          </Box>
        </Box>
        <Button
          component={Link}
          to="/own"
          size="small"
          sx={{ ml: "auto", display: { sm: "none" } }}
        >
          You
        </Button>
        <Button size="small" onClick={() => signOut.mutate()}>
          Sign out
        </Button>
      </Box>
      <Box
        component="main"
        sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}
      >
        <Outlet />
      </Box>
    </Box>
  );
}
