import "@fontsource-variable/literata/index.css";
import "@fontsource-variable/public-sans/index.css";
import "./features/recording/strip.css";
import "./app.css";
import "./print.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { StrictMode, useEffect, type ReactNode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { ApiError } from "./api/client";
import { SessionGate } from "./features/accounts/SessionGate";
import { GroupsTray } from "./features/comparisons/GroupsTray";
import {
  AllCarsPage,
  CarPage,
  CarTimes,
  CarsPage,
  ChangePlanPage,
  ComparePage,
  ComparisonPage,
  ComparisonsPage,
  CoursePage,
  CoursesPage,
  DayAnswer,
  DayPage,
  DaySheet,
  DevicesPage,
  FillPage,
  GridPage,
  HeadsUpPage,
  HelpPage,
  HomePage,
  ImportPage,
  JoinPage,
  LogPage,
  LogsPage,
  NewDay,
  NewPlanPage,
  NewStudyPage,
  OwnMeasuresPage,
  PeoplePage,
  PlanAnswer,
  PlanPage,
  PlansPage,
  QuickPage,
  RecordersPage,
  Reminders,
  ReportPage,
  ReportsPage,
  RunBeside,
  RunSheet,
  RunsPage,
  SlipPage,
  StripPage,
  StripSheet,
  StudiesPage,
  StudyPage,
  loadEarly,
} from "./pages";
import { ErrorBoundary } from "./shared/ErrorBoundary";
import { Frame } from "./Frame";
import { PreferencesProvider, usePreferences } from "./shared/preferences";
import { PALETTES, TEXT_FACE, themeConfig, TITLE_FACE } from "./theme";

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
    style.setProperty("--text-face", TEXT_FACE);
    style.colorScheme = mode;
    document.documentElement.dataset.mode = mode;
  }, [mode]);
  return <ConfigProvider theme={themeConfig(mode)}>{children}</ConfigProvider>;
}

/** Every page by its address. What a page needs of a feature to its right in the map is handed to it here. */
function Pages() {
  return (
    <Routes>
      <Route
        path="record/:id"
        element={
          <ErrorBoundary place="strip">
            <StripPage />
          </ErrorBoundary>
        }
      />
      <Route element={<Frame />}>
        <Route index element={<HomePage />} />
        <Route path="cars" element={<CarsPage times={(car) => <CarTimes car={car} />} />} />
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
              answer={(plan) => <PlanAnswer plan={plan} />}
            />
          }
        />
        <Route path="days/:id" element={<DayPage answer={(plan) => <DayAnswer plan={plan} />} />} />
        <Route path="days/:id/sheet" element={<DaySheet />} />
        <Route path="record/heads-up/:id" element={<HeadsUpPage />} />
        <Route path="help" element={<HelpPage />} />
        <Route path="import" element={<ImportPage />} />
        <Route path="runs/grid" element={<GridPage />} />
        <Route path="logs" element={<LogsPage />} />
        <Route path="logs/:id" element={<LogPage />} />
        <Route path="devices" element={<DevicesPage />} />
        <Route path="people" element={<PeoplePage />} />
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
        <Route path="runs/:id" element={<RunSheet beside={(run) => <RunBeside run={run} />} />} />
        <Route path="runs/:id/slip" element={<SlipPage />} />
        <Route path="studies" element={<StudiesPage />} />
        <Route path="studies/new" element={<NewStudyPage />} />
        <Route path="studies/own-measures" element={<OwnMeasuresPage />} />
        <Route path="studies/:id" element={<StudyPage />} />
        <Route path="all-cars" element={<AllCarsPage />} />
        <Route path="reports" element={<ReportsPage />} />
        <Route path="reports/:id" element={<ReportPage />} />
        <Route path="compare" element={<ComparisonsPage />} />
        <Route path="compare/new" element={<ComparePage />} />
        <Route path="compare/quick" element={<QuickPage />} />
        <Route path="compare/:id" element={<ComparisonPage />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Route>
    </Routes>
  );
}

loadEarly(window.location.pathname);
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <PreferencesProvider>
          <Themed>
            {window.location.pathname === "/join" ? (
              <JoinPage />
            ) : (
              <SessionGate>
                <BrowserRouter>
                  <Pages />
                </BrowserRouter>
              </SessionGate>
            )}
          </Themed>
        </PreferencesProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
