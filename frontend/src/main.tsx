import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-700.css";
import "./styles.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import {
  type ComponentType,
  Fragment,
  lazy,
  StrictMode,
  Suspense,
  useEffect,
  useLayoutEffect,
} from "react";
import { createRoot } from "react-dom/client";
import {
  createBrowserRouter,
  Navigate,
  Outlet,
  type RouteObject,
  useLocation,
  useNavigationType,
} from "react-router";
import { RouterProvider } from "react-router/dom";
import { Refused } from "./api/client";
import { jobChanged } from "./api/keys";
import { countWaiting, onKept } from "./api/outbox";
import { fromHere, paired, removed } from "./api/reach";
import { JobsPage } from "./features/jobs/JobsPage";
import { SettingsProvider } from "./format/settings";
import { forgetEverything } from "./offline/forget";
import { keepOnThisDevice } from "./offline/register";
import { SkipLink } from "./ui/Heading";
import { Tools } from "./ui/Tools";
import { applyStoredTheme } from "./ui/theme";
import { Crash } from "./ui/told/Crash";
import { NoticeProvider } from "./ui/told/Notices";
import { OnDevice } from "./ui/told/OnDevice";
import { Opening } from "./ui/told/Opening";
import { Updated } from "./ui/told/Updated";

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
// What waited may be kept before its page is there to hear of it: whoever shows the job then asks afresh.
onKept((job) => void jobChanged(queries, job));

/** A page that is loaded when it is first opened: what is on screen stays until it is there. */
const page =
  <Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) =>
  async () => ({ Component: (await load())[name] });
const PairPage = lazy(async () => ({
  default: (await import("./features/access/PairPage")).PairPage,
}));

/** What stands around every page; a device that is not paired sees no page at all. */
function Frame() {
  const { pathname } = useLocation();
  const how = useNavigationType();
  // Another page begins at its top; back to one, the browser knows where it was.
  // biome-ignore lint/correctness/useExhaustiveDependencies: a page is another by its path
  useLayoutEffect(() => {
    if (how !== "POP") window.scrollTo(0, 0);
  }, [pathname]);
  const known = paired.use();
  const kept = fromHere.use();
  const out = removed.use();
  useEffect(() => {
    if (out) void forgetEverything(countWaiting());
  }, [out]);
  return (
    <>
      {known && <SkipLink />}
      {known && <OnDevice />}
      {known && <Tools />}
      <Updated />
      {kept && (
        <p role="status" className="dots-close p-2 text-center font-bold">
          Spare Margin is not responding. This is the copy saved on this device; readings you type
          are saved here too.
        </p>
      )}
      {known ? (
        // Another job's page begins afresh, though it is the same page.
        <Fragment key={pathname}>
          <Outlet />
        </Fragment>
      ) : (
        <Suspense fallback={<Opening says="Opening …" />}>
          <PairPage />
        </Suspense>
      )}
    </>
  );
}

/** Which page an address shows. */
const PAGES: RouteObject[] = [
  { path: "/", Component: JobsPage },
  { path: "/check", lazy: page(() => import("./features/check/CheckPage"), "CheckPage") },
  {
    path: "/jobs/:job",
    lazy: page(() => import("./features/runsheet/RunSheetPage"), "RunSheetPage"),
  },
  { path: "/jobs/:job/craft", lazy: page(() => import("./features/craft/CraftPage"), "CraftPage") },
  {
    path: "/jobs/:job/source",
    lazy: page(() => import("./features/source/SourcePage"), "SourcePage"),
  },
  { path: "/jobs/:job/walk", lazy: page(() => import("./features/walk/WalkPage"), "WalkPage") },
  {
    path: "/jobs/:job/upgrade",
    lazy: page(() => import("./features/upgrade/UpgradePage"), "UpgradePage"),
  },
  {
    path: "/jobs/:job/sizing",
    lazy: page(() => import("./features/upgrade/SizingPage"), "SizingPage"),
  },
  {
    path: "/jobs/:job/order",
    lazy: page(() => import("./features/upgrade/OrderPage"), "OrderPage"),
  },
  { path: "/jobs/:job/lists", lazy: page(() => import("./features/lists/ListsPage"), "ListsPage") },
  { path: "/jobs/:job/proof", lazy: page(() => import("./features/proof/ProofPage"), "ProofPage") },
  {
    path: "/jobs/:job/timeline",
    lazy: page(() => import("./features/jobs/TimelinePage"), "TimelinePage"),
  },
  { path: "/jobs/:job/logs", lazy: page(() => import("./features/logs/LogsPage"), "LogsPage") },
  { path: "/jobs/:job/live", lazy: page(() => import("./features/live/LivePage"), "LivePage") },
  { path: "/jobs/:job/logs/:log", lazy: page(() => import("./features/logs/LogPage"), "LogPage") },
  {
    path: "/jobs/:job/photographs",
    lazy: page(() => import("./features/photographs/PhotographsPage"), "PhotographsPage"),
  },
  { path: "/tables", lazy: page(() => import("./features/tables/TablesPage"), "TablesPage") },
  { path: "/learned", lazy: page(() => import("./features/tables/LearnedPage"), "LearnedPage") },
  {
    path: "/settings",
    lazy: page(() => import("./features/settings/SettingsPage"), "SettingsPage"),
  },
  { path: "/phones", lazy: page(() => import("./features/access/PhonesPage"), "PhonesPage") },
  { path: "/meters", lazy: page(() => import("./features/meters/MetersPage"), "MetersPage") },
  {
    path: "/practise/:part?/:id?",
    lazy: page(() => import("./features/practice/Practice"), "Practice"),
  },
  { path: "/pair", element: <Navigate to="/" replace /> },
  { path: "*", element: <Crash missing /> },
];
const router = createBrowserRouter([
  {
    element: <Frame />,
    hydrateFallbackElement: <Opening says="Opening …" />,
    // A page that comes apart takes down itself alone.
    children: [{ errorElement: <Crash />, children: PAGES }],
  },
]);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <NoticeProvider>
          <SettingsProvider>
            <RouterProvider router={router} />
          </SettingsProvider>
        </NoticeProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
