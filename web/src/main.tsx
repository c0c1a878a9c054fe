import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Refused } from "./api/client";
import { FreshClient } from "./api/fresh";
import { Loading } from "./ui/state";
import { Broken } from "./shell/Broken";
import { keepForOffline } from "./shell/offline";
import { Shell } from "./shell/Shell";
import "./theme.css";

const queries = new FreshClient({
  defaultOptions: {
    queries: {
      retryDelay: (times) => 1500 * (times + 1), // the database may be away for some seconds
      retry: (times, error) => times < 4 && !(error instanceof Refused && error.status >= 400 && error.status < 500),
      staleTime: 10_000,
      refetchOnWindowFocus: false,
    },
  },
});

keepForOffline();

const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <Broken />,
    hydrateFallbackElement: <Loading what="the page" />,
    children: [
      { path: "/", element: <Navigate to="/students" replace /> },
      { path: "/students", lazy: async () => ({ Component: (await import("./students/StudentsPage")).StudentsPage }) },
      { path: "/students/:studentId", lazy: async () => ({ Component: (await import("./students/StudentPage")).StudentPage }) },
      { path: "/students/:studentId/prepare", lazy: async () => ({ Component: (await import("./prepare/PreparePage")).PreparePage }) },
      { path: "/students/:studentId/measure", lazy: async () => ({ Component: (await import("./bag/BagPage")).BagPage }) },
      { path: "/bags", lazy: async () => ({ Component: (await import("./bag/AllBags")).AllBags }) },
      { path: "/students/:studentId/bring", lazy: async () => ({ Component: (await import("./bring/BringPage")).BringPage }) },
      { path: "/students/:studentId/read", lazy: async () => ({ Component: (await import("./read/ReadPage")).ReadPage }) },
      { path: "/students/:studentId/compare", lazy: async () => ({ Component: (await import("./compare/ComparePage")).ComparePage }) },
      { path: "/students/:studentId/weeks", lazy: async () => ({ Component: (await import("./weeks/WeeksPage")).WeeksPage }) },
      { path: "/students/:studentId/plan", lazy: async () => ({ Component: (await import("./plan/PlanPage")).PlanPage }) },
      { path: "/students/:studentId/force", lazy: async () => ({ Component: (await import("./weeks/ForcePage")).ForcePage }) },
      { path: "/students/:studentId/report", lazy: async () => ({ Component: (await import("./reports/ReportPage")).ReportPage }) },
      { path: "/evenings/:eveningId", lazy: async () => ({ Component: (await import("./evening/EveningPage")).EveningPage }) },
      { path: "/trials/new", lazy: async () => ({ Component: (await import("./compare/DesignPage")).DesignPage }) },
      { path: "/trials/:trialId/edit", lazy: async () => ({ Component: (await import("./compare/DesignPage")).DesignPage }) },
      { path: "/trials/:trialId/sheet", lazy: async () => ({ Component: (await import("./compare/SheetPage")).SheetPage }) },
      { path: "/class", lazy: async () => ({ Component: (await import("./class/ClassPage")).ClassPage }) },
      { path: "/class/plan", lazy: async () => ({ Component: (await import("./plan/ClassBoard")).ClassBoard }) },
      { path: "/log", lazy: async () => ({ Component: (await import("./log/LogPage")).LogPage }) },
      { path: "/kit", lazy: async () => ({ Component: (await import("./kit/KitPage")).KitPage }) },
      { path: "/kit/guide", lazy: async () => ({ Component: (await import("./kit/GuidePage")).GuidePage }) },
      { path: "/playbook", lazy: async () => ({ Component: (await import("./playbook/PlaybookPage")).PlaybookPage }) },
      { path: "/removed", lazy: async () => ({ Component: (await import("./removed/RemovedPage")).RemovedPage }) },
      { path: "/account", lazy: async () => ({ Component: (await import("./account/AccountPage")).AccountPage }) },
      { path: "*", element: <Broken lost /> },
    ],
  },
]);

const theme = localStorage.getItem("theme");
if (theme) document.documentElement.dataset.theme = theme;

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
