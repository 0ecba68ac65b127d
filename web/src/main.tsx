import CssBaseline from "@mui/material/CssBaseline";
import { ThemeProvider } from "@mui/material/styles";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense, lazy } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { ApiError } from "./api/client";
import { Shell } from "./shell/Shell";
import { Waiting } from "./shell/Waiting";
import { SignedIn } from "./session/SignedIn";
import { theme } from "./theme/theme";

const TodayView = lazy(() => import("./today/TodayView"));
const BenchView = lazy(() => import("./bench/BenchView"));
const ChairView = lazy(() => import("./chair/ChairView"));
const LightsView = lazy(() => import("./lights/LightsView"));
const RulesView = lazy(() => import("./rules/RulesView"));
const StockView = lazy(() => import("./stock/StockView"));
const RecordsView = lazy(() => import("./record/RecordsView"));
const RecordView = lazy(() => import("./record/RecordView"));

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => error instanceof ApiError && error.status === 0 && count < 3,
      refetchOnWindowFocus: false,
    },
  },
});

const root = document.getElementById("root");
if (!root) throw new Error("the page has no root");
createRoot(root).render(
  <StrictMode>
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <SignedIn>
            <Suspense fallback={<Waiting />}>
              <Routes>
                <Route element={<Shell />}>
                  <Route path="/" element={<TodayView />} />
                  <Route path="/bench/:restorationId" element={<BenchView />} />
                  <Route path="/lights/:lampId?" element={<LightsView />} />
                  <Route path="/rules/:ruleId?" element={<RulesView />} />
                  <Route path="/stock/:itemId?" element={<StockView />} />
                  <Route path="/records" element={<RecordsView />} />
                  <Route path="/records/:recordId" element={<RecordView />} />
                </Route>
                <Route path="/chair/:runId" element={<ChairView />} />
                <Route path="*" element={<Navigate to="/" replace />} />
              </Routes>
            </Suspense>
          </SignedIn>
        </BrowserRouter>
      </QueryClientProvider>
    </ThemeProvider>
  </StrictMode>,
);
