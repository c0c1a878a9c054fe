import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Refused } from "./api/client";
import { ClassPage } from "./class/ClassPage";
import { ComparePage } from "./compare/ComparePage";
import { DesignPage } from "./compare/DesignPage";
import { SheetPage } from "./compare/SheetPage";
import { GuidePage } from "./kit/GuidePage";
import { KitPage } from "./kit/KitPage";
import { MeasurePage } from "./measure/MeasurePage";
import { PlaybookPage } from "./playbook/PlaybookPage";
import { ReadPage } from "./read/ReadPage";
import { Broken } from "./shell/Broken";
import { Shell } from "./shell/Shell";
import { StudentPage } from "./students/StudentPage";
import { StudentsPage } from "./students/StudentsPage";
import { WeeksPage } from "./weeks/WeeksPage";
import "./theme.css";

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (times, error) => times < 2 && !(error instanceof Refused && error.status >= 400 && error.status < 500),
      staleTime: 10_000,
      refetchOnWindowFocus: false,
    },
  },
});

const router = createBrowserRouter([
  {
    element: <Shell />,
    errorElement: <Broken />,
    children: [
      { path: "/", element: <Navigate to="/students" replace /> },
      { path: "/students", element: <StudentsPage /> },
      { path: "/students/:studentId", element: <StudentPage /> },
      { path: "/students/:studentId/measure", element: <MeasurePage /> },
      { path: "/students/:studentId/read", element: <ReadPage /> },
      { path: "/students/:studentId/compare", element: <ComparePage /> },
      { path: "/students/:studentId/weeks", element: <WeeksPage /> },
      { path: "/trials/new", element: <DesignPage /> },
      { path: "/trials/:trialId/edit", element: <DesignPage /> },
      { path: "/trials/:trialId/sheet", element: <SheetPage /> },
      { path: "/class", element: <ClassPage /> },
      { path: "/kit", element: <KitPage /> },
      { path: "/kit/guide", element: <GuidePage /> },
      { path: "/playbook", element: <PlaybookPage /> },
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
