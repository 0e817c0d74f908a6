import "@fontsource-variable/literata/index.css";
import "@fontsource-variable/public-sans/index.css";
import "./features/recording/strip.css";
import "./app.css";
import "./print.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { App as AntApp, ConfigProvider } from "antd";
import { lazy, StrictMode, Suspense, useEffect, type ReactNode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { ApiError } from "./api/client";
import { SessionGate } from "./features/accounts/SessionGate";
import { GroupsTray } from "./features/comparisons/GroupsTray";
import { ErrorBoundary } from "./shared/ErrorBoundary";
import { Frame } from "./Frame";
import { PreferencesProvider, usePreferences } from "./shared/preferences";
import { Loading } from "./shared/States";
import { PALETTES, themeConfig, TITLE_FACE } from "./theme";

// Every page is fetched when it is opened.
const RunsPage = lazy(() => import("./features/runs/RunsPage").then((page) => ({ default: page.RunsPage })));
const CarPage = lazy(() => import("./features/cars/CarPage").then((page) => ({ default: page.CarPage })));
const CarsPage = lazy(() => import("./features/cars/CarsPage").then((page) => ({ default: page.CarsPage })));
const ComparePage = lazy(() =>
  import("./features/comparisons/ComparePage").then((page) => ({ default: page.ComparePage })),
);
const ComparisonPage = lazy(() =>
  import("./features/comparisons/ComparisonPage").then((page) => ({ default: page.ComparisonPage })),
);
const ComparisonsPage = lazy(() =>
  import("./features/comparisons/ComparisonsPage").then((page) => ({ default: page.ComparisonsPage })),
);
const CoursePage = lazy(() =>
  import("./features/courses/CoursePage").then((page) => ({ default: page.CoursePage })),
);
const CoursesPage = lazy(() =>
  import("./features/courses/CoursesPage").then((page) => ({ default: page.CoursesPage })),
);
const NewDay = lazy(() => import("./features/days/NewDay").then((part) => ({ default: part.NewDay })));
const Reminders = lazy(() =>
  import("./features/plans/Reminders").then((part) => ({ default: part.Reminders })),
);
const AllCarsPage = lazy(() =>
  import("./features/studies/AllCarsPage").then((page) => ({ default: page.AllCarsPage })),
);
const NewStudyPage = lazy(() =>
  import("./features/studies/NewStudyPage").then((page) => ({ default: page.NewStudyPage })),
);
const OwnMeasuresPage = lazy(() =>
  import("./features/studies/OwnMeasuresPage").then((page) => ({ default: page.OwnMeasuresPage })),
);
const PlanAnswer = lazy(() =>
  import("./features/studies/PlanAnswer").then((part) => ({ default: part.PlanAnswer })),
);
const DayAnswer = lazy(() =>
  import("./features/studies/PlanAnswer").then((part) => ({ default: part.DayAnswer })),
);
const StudiesPage = lazy(() =>
  import("./features/studies/StudiesPage").then((page) => ({ default: page.StudiesPage })),
);
const StudyPage = lazy(() =>
  import("./features/studies/StudyPage").then((page) => ({ default: page.StudyPage })),
);
const StripSheet = lazy(() =>
  import("./features/learning/StripSheet").then((part) => ({ default: part.StripSheet })),
);
const DayPage = lazy(() => import("./features/days/DayPage").then((page) => ({ default: page.DayPage })));
const DaySheet = lazy(() => import("./features/days/DaySheet").then((page) => ({ default: page.DaySheet })));
const ChangePlanPage = lazy(() =>
  import("./features/plans/NewPlanPage").then((page) => ({ default: page.ChangePlanPage })),
);
const NewPlanPage = lazy(() =>
  import("./features/plans/NewPlanPage").then((page) => ({ default: page.NewPlanPage })),
);
const PlanPage = lazy(() => import("./features/plans/PlanPage").then((page) => ({ default: page.PlanPage })));
const HomePage = lazy(() => import("./features/home/HomePage").then((page) => ({ default: page.HomePage })));
const QuickPage = lazy(() =>
  import("./features/comparisons/quick/QuickPage").then((page) => ({ default: page.QuickPage })),
);
const CarTimes = lazy(() =>
  import("./features/studies/CarTimes").then((part) => ({ default: part.CarTimes })),
);
const RunBeside = lazy(() =>
  import("./features/comparisons/RunBeside").then((part) => ({ default: part.RunBeside })),
);
const SlipPage = lazy(() => import("./features/runs/SlipPage").then((page) => ({ default: page.SlipPage })));
const PlansPage = lazy(() =>
  import("./features/plans/PlansPage").then((page) => ({ default: page.PlansPage })),
);
const HeadsUpPage = lazy(() =>
  import("./features/recording/HeadsUpPage").then((page) => ({ default: page.HeadsUpPage })),
);
const DevicesPage = lazy(() =>
  import("./features/recording/DevicesPage").then((page) => ({ default: page.DevicesPage })),
);
const FillPage = lazy(() => import("./features/runs/FillPage").then((page) => ({ default: page.FillPage })));
const GridPage = lazy(() => import("./features/runs/GridPage").then((page) => ({ default: page.GridPage })));
const LogPage = lazy(() => import("./features/runs/LogPage").then((page) => ({ default: page.LogPage })));
const LogsPage = lazy(() => import("./features/runs/LogsPage").then((page) => ({ default: page.LogsPage })));
const RecordersPage = lazy(() =>
  import("./features/recording/RecordersPage").then((page) => ({ default: page.RecordersPage })),
);
const StripPage = lazy(() =>
  import("./features/recording/StripPage").then((page) => ({ default: page.StripPage })),
);
const RunSheet = lazy(() => import("./features/runs/RunSheet").then((page) => ({ default: page.RunSheet })));

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 10_000,
      retry: (count, error) =>
        count < 2 && !(error instanceof ApiError && error.status >= 400 && error.status < 500),
    },
  },
});

function Themed({ children }: { children: ReactNode }) {
  const { mode } = usePreferences();
  useEffect(() => {
    const style = document.documentElement.style;
    for (const [name, color] of Object.entries(PALETTES[mode])) style.setProperty(`--${name}`, color);
    style.setProperty("--title-face", TITLE_FACE);
    style.colorScheme = mode;
  }, [mode]);
  return (
    <ConfigProvider theme={themeConfig(mode)}>
      <AntApp>{children}</AntApp>
    </ConfigProvider>
  );
}

/** Every page by its address. What a page needs of a feature to its right in the map is handed to it here. */
function Pages() {
  return (
    <Routes>
      <Route
        path="record/:id"
        element={
          <ErrorBoundary place="strip">
            <Suspense fallback={<Loading what="the strip screen" />}>
              <StripPage />
            </Suspense>
          </ErrorBoundary>
        }
      />
      <Route element={<Frame />}>
        <Route index element={<HomePage />} />
        <Route
          path="cars"
          element={
            <CarsPage
              times={(car) => (
                <Suspense>
                  <CarTimes car={car} />
                </Suspense>
              )}
            />
          }
        />
        <Route path="cars/:id" element={<CarPage reminders={(car) => <Reminders car={car} />} />} />
        <Route path="courses" element={<CoursesPage />} />
        <Route
          path="courses/:id"
          element={<CoursePage stripCheck={(course) => <StripSheet course={course} />} />}
        />
        <Route path="plans" element={<PlansPage />} />
        <Route path="plans/new" element={<NewPlanPage />} />
        <Route path="plans/:id/change" element={<ChangePlanPage />} />
        <Route
          path="plans/:id"
          element={
            <PlanPage
              dayForm={(plan) => <NewDay plan={plan} />}
              answer={(plan) => (
                <Suspense>
                  <PlanAnswer plan={plan} />
                </Suspense>
              )}
            />
          }
        />
        <Route
          path="days/:id"
          element={
            <DayPage
              answer={(plan) => (
                <Suspense>
                  <DayAnswer plan={plan} />
                </Suspense>
              )}
            />
          }
        />
        <Route path="days/:id/sheet" element={<DaySheet />} />
        <Route path="record/heads-up/:id" element={<HeadsUpPage />} />
        <Route path="runs/grid" element={<GridPage />} />
        <Route path="logs" element={<LogsPage />} />
        <Route path="logs/:id" element={<LogPage />} />
        <Route path="devices" element={<DevicesPage />} />
        <Route path="record" element={<RecordersPage />} />
        <Route
          path="runs"
          element={
            <RunsPage
              tray={(picked, clear, edit) => (
                <GroupsTray picked={picked} clear={clear}>
                  {edit}
                </GroupsTray>
              )}
            />
          }
        />
        <Route path="runs/fill" element={<FillPage />} />
        <Route
          path="runs/:id"
          element={
            <RunSheet
              beside={(run) => (
                <Suspense>
                  <RunBeside run={run} />
                </Suspense>
              )}
            />
          }
        />
        <Route path="runs/:id/slip" element={<SlipPage />} />
        <Route path="studies" element={<StudiesPage />} />
        <Route path="studies/new" element={<NewStudyPage />} />
        <Route path="studies/own-measures" element={<OwnMeasuresPage />} />
        <Route path="studies/:id" element={<StudyPage />} />
        <Route path="all-cars" element={<AllCarsPage />} />
        <Route path="compare" element={<ComparisonsPage />} />
        <Route path="compare/new" element={<ComparePage />} />
        <Route path="compare/quick" element={<QuickPage />} />
        <Route path="compare/:id" element={<ComparisonPage />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Route>
    </Routes>
  );
}

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <PreferencesProvider>
          <Themed>
            <SessionGate>
              <BrowserRouter>
                <Pages />
              </BrowserRouter>
            </SessionGate>
          </Themed>
        </PreferencesProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
