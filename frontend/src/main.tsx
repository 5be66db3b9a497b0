import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-700.css";
import "./styles.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { type ComponentType, lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { Refused } from "./api/client";
import { fromHere, paired } from "./api/reach";
import { JobsPage } from "./features/jobs/JobsPage";
import { SettingsProvider } from "./format/settings";
import { keepOnThisDevice } from "./offline/register";
import { Crash, CrashGuard } from "./ui/Crash";
import { NoticeProvider } from "./ui/Notices";
import { Opening } from "./ui/Opening";
import { applyStoredTheme } from "./ui/theme";

applyStoredTheme();
keepOnThisDevice();
// Styles that a component puts into the page itself need the page's nonce: no others are let through.
setNonce(document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce ?? "");

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // What was refused is refused again; what did not answer may the second time.
      retry: (count, error) => count < 1 && !(error instanceof Refused),
      staleTime: 0,
      refetchOnWindowFocus: true,
    },
  },
});
/** A page that is loaded when it is first opened. */
const page = <Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) =>
  lazy(async () => ({ default: (await load())[name] }));
const RunSheetPage = page(() => import("./features/runsheet/RunSheetPage"), "RunSheetPage");
const CheckPage = page(() => import("./features/check/CheckPage"), "CheckPage");
const CraftPage = page(() => import("./features/craft/CraftPage"), "CraftPage");
const SourcePage = page(() => import("./features/source/SourcePage"), "SourcePage");
const UpgradePage = page(() => import("./features/upgrade/UpgradePage"), "UpgradePage");
const SizingPage = page(() => import("./features/upgrade/SizingPage"), "SizingPage");
const OrderPage = page(() => import("./features/upgrade/OrderPage"), "OrderPage");
const ProofPage = page(() => import("./features/proof/ProofPage"), "ProofPage");
const TimelinePage = page(() => import("./features/jobs/TimelinePage"), "TimelinePage");
const LogsPage = page(() => import("./features/logs/LogsPage"), "LogsPage");
const LogPage = page(() => import("./features/logs/LogPage"), "LogPage");
const WalkPage = page(() => import("./features/walk/WalkPage"), "WalkPage");
const TablesPage = page(() => import("./features/tables/TablesPage"), "TablesPage");
const LearnedPage = page(() => import("./features/tables/LearnedPage"), "LearnedPage");
const PhonesPage = page(() => import("./features/access/PhonesPage"), "PhonesPage");
const PairPage = page(() => import("./features/access/PairPage"), "PairPage");
const SettingsPage = page(() => import("./features/settings/SettingsPage"), "SettingsPage");

/** Which page an address shows; one that comes apart takes down itself alone. */
function Pages() {
  const { pathname } = useLocation();
  const known = paired.use();
  const kept = fromHere.use();
  return (
    <CrashGuard key={pathname}>
      {kept && (
        <p role="status" className="dots-close p-2 text-center font-bold">
          The program does not answer: this is what this device kept of it.
        </p>
      )}
      <Suspense fallback={<Opening says="Opening …" />}>
        {known ? (
          <Routes>
            <Route path="/" element={<JobsPage />} />
            <Route path="/check" element={<CheckPage />} />
            <Route path="/jobs/:job" element={<RunSheetPage />} />
            <Route path="/jobs/:job/craft" element={<CraftPage />} />
            <Route path="/jobs/:job/source" element={<SourcePage />} />
            <Route path="/jobs/:job/walk" element={<WalkPage />} />
            <Route path="/jobs/:job/upgrade" element={<UpgradePage />} />
            <Route path="/jobs/:job/sizing" element={<SizingPage />} />
            <Route path="/jobs/:job/order" element={<OrderPage />} />
            <Route path="/jobs/:job/proof" element={<ProofPage />} />
            <Route path="/jobs/:job/timeline" element={<TimelinePage />} />
            <Route path="/jobs/:job/logs" element={<LogsPage />} />
            <Route path="/jobs/:job/logs/:log" element={<LogPage />} />
            <Route path="/tables" element={<TablesPage />} />
            <Route path="/learned" element={<LearnedPage />} />
            <Route path="/settings" element={<SettingsPage />} />
            <Route path="/phones" element={<PhonesPage />} />
            <Route path="/pair" element={<Navigate to="/" replace />} />
            <Route path="*" element={<Crash missing />} />
          </Routes>
        ) : (
          <PairPage />
        )}
      </Suspense>
    </CrashGuard>
  );
}

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <NoticeProvider>
          <SettingsProvider>
            <BrowserRouter>
              <Pages />
            </BrowserRouter>
          </SettingsProvider>
        </NoticeProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
