import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-700.css";
import "./styles.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { type ComponentType, StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { JobsPage } from "./features/jobs/JobsPage";
import { SettingsProvider } from "./format/settings";
import { Crash } from "./ui/Crash";
import { NoticeProvider } from "./ui/Notices";
import { applyStoredTheme } from "./ui/theme";

applyStoredTheme();

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 0, refetchOnWindowFocus: true } },
});
/** A page that is loaded when it is first opened. */
const page = <Name extends string>(
  load: () => Promise<Record<Name, ComponentType>>,
  name: Name,
) => ({
  lazy: async () => ({ Component: (await load())[name] }),
  errorElement: <Crash />,
  hydrateFallbackElement: <p className="p-8 text-soft">Opening …</p>,
});

const router = createBrowserRouter([
  { path: "/", element: <JobsPage />, errorElement: <Crash /> },
  {
    path: "/jobs/:job",
    ...page(() => import("./features/runsheet/RunSheetPage"), "RunSheetPage"),
  },
  { path: "/jobs/:job/craft", ...page(() => import("./features/craft/CraftPage"), "CraftPage") },
  {
    path: "/jobs/:job/source",
    ...page(() => import("./features/source/SourcePage"), "SourcePage"),
  },
  { path: "/jobs/:job/walk", ...page(() => import("./features/walk/WalkPage"), "WalkPage") },
  { path: "/shelves", ...page(() => import("./features/tables/TablesPage"), "TablesPage") },
  { path: "/settings", ...page(() => import("./features/settings/SettingsPage"), "SettingsPage") },
  { path: "*", element: <Crash missing /> },
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
