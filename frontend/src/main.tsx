import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-700.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-ext-700.css";
import "./styles.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { CraftPage } from "./craft/CraftPage";
import { RunSheetPage } from "./runsheet/RunSheetPage";
import { SettingsPage } from "./settings/SettingsPage";
import { ShelfPage } from "./shelf/ShelfPage";
import { ShelvesPage } from "./shelves/ShelvesPage";
import { SourcePage } from "./source/SourcePage";
import { Crash } from "./ui/Crash";
import { NoticeProvider } from "./ui/Notices";
import { applyStoredTheme } from "./ui/theme";
import { SettingsProvider } from "./units/settings";
import { WalkPage } from "./walk/WalkPage";

applyStoredTheme();

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 0, refetchOnWindowFocus: true } },
});
const router = createBrowserRouter([
  { path: "/", element: <ShelfPage />, errorElement: <Crash /> },
  { path: "/jobs/:job", element: <RunSheetPage />, errorElement: <Crash /> },
  { path: "/jobs/:job/craft", element: <CraftPage />, errorElement: <Crash /> },
  { path: "/jobs/:job/source", element: <SourcePage />, errorElement: <Crash /> },
  { path: "/jobs/:job/walk", element: <WalkPage />, errorElement: <Crash /> },
  { path: "/shelves", element: <ShelvesPage />, errorElement: <Crash /> },
  { path: "/settings", element: <SettingsPage />, errorElement: <Crash /> },
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
