import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { ApiError } from "./api/client";
import { Shell } from "./shell/Shell";
import { fetched } from "./shell/fetched";
import { SignedIn } from "./session/SignedIn";
import { theme } from "./theme/theme";

const WelcomeView = fetched(() => import("./session/WelcomeView"));
const OwnView = fetched(() => import("./session/OwnView"));
const PeopleView = fetched(() => import("./people/PeopleView"));
const AuditView = fetched(() => import("./people/AuditView"));
const PatientsView = fetched(() => import("./patients/PatientsView"));
const TryView = fetched(() => import("./patients/TryView"));
const PatientView = fetched(() => import("./patients/PatientView"));
const TodayView = fetched(() => import("./today/TodayView"));
const BenchView = fetched(() => import("./bench/BenchView"));
const ChairView = fetched(() => import("./chair/ChairView"));
const LightsView = fetched(() => import("./lights/LightsView"));
const ShadesView = fetched(() => import("./shades/ShadesView"));
const RulesView = fetched(() => import("./rules/RulesView"));
const StockView = fetched(() => import("./stock/StockView"));
const RecordsView = fetched(() => import("./record/RecordsView"));
const RecordView = fetched(() => import("./record/RecordView"));

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => error instanceof ApiError && error.status === 0 && count < 3,
      refetchOnWindowFocus: false,
    },
  },
});

/** What whoever is signed in sees. */
function Inside() {
  return (
    <SignedIn>
      <Routes>
        <Route element={<Shell />}>
          <Route path="/" element={<TodayView />} />
          <Route path="/day/:day" element={<TodayView />} />
          <Route path="/try" element={<TryView />} />
          <Route path="/patients" element={<PatientsView />} />
          <Route path="/patients/:patientId" element={<PatientView />} />
          <Route path="/bench/:restorationId" element={<BenchView />} />
          <Route path="/lights/:lampId?" element={<LightsView />} />
          <Route path="/shades" element={<ShadesView />} />
          <Route path="/rules/:ruleId?" element={<RulesView />} />
          <Route path="/stock/:itemId?" element={<StockView />} />
          <Route path="/records" element={<RecordsView />} />
          <Route path="/records/:recordId" element={<RecordView />} />
          <Route path="/people" element={<PeopleView />} />
          <Route path="/audit" element={<AuditView />} />
          <Route path="/own" element={<OwnView />} />
        </Route>
        <Route path="/chair/:runId" element={<ChairView />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </SignedIn>
  );
}

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route path="/welcome/:secret" element={<WelcomeView />} />
            <Route path="*" element={<Inside />} />
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </ThemeProvider>
  </StrictMode>,
);
