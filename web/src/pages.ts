import { lazy } from "react";

// Every page, and what it shows of another feature, is fetched when it is opened.
export const RunsPage = lazy(() =>
  import("./features/runs/RunsPage").then((page) => ({ default: page.RunsPage })),
);
export const CarPage = lazy(() =>
  import("./features/cars/CarPage").then((page) => ({ default: page.CarPage })),
);
export const CarsPage = lazy(() =>
  import("./features/cars/CarsPage").then((page) => ({ default: page.CarsPage })),
);
export const ComparePage = lazy(() =>
  import("./features/comparisons/ComparePage").then((page) => ({ default: page.ComparePage })),
);
export const ComparisonPage = lazy(() =>
  import("./features/comparisons/ComparisonPage").then((page) => ({ default: page.ComparisonPage })),
);
export const ComparisonsPage = lazy(() =>
  import("./features/comparisons/ComparisonsPage").then((page) => ({ default: page.ComparisonsPage })),
);
export const CoursePage = lazy(() =>
  import("./features/courses/CoursePage").then((page) => ({ default: page.CoursePage })),
);
export const CoursesPage = lazy(() =>
  import("./features/courses/CoursesPage").then((page) => ({ default: page.CoursesPage })),
);
export const NewDay = lazy(() => import("./features/days/NewDay").then((part) => ({ default: part.NewDay })));
export const Reminders = lazy(() =>
  import("./features/plans/Reminders").then((part) => ({ default: part.Reminders })),
);
export const AllCarsPage = lazy(() =>
  import("./features/studies/AllCarsPage").then((page) => ({ default: page.AllCarsPage })),
);
export const NewStudyPage = lazy(() =>
  import("./features/studies/NewStudyPage").then((page) => ({ default: page.NewStudyPage })),
);
export const OwnMeasuresPage = lazy(() =>
  import("./features/studies/OwnMeasuresPage").then((page) => ({ default: page.OwnMeasuresPage })),
);
export const PlanAnswer = lazy(() =>
  import("./features/studies/PlanAnswer").then((part) => ({ default: part.PlanAnswer })),
);
export const DayAnswer = lazy(() =>
  import("./features/studies/PlanAnswer").then((part) => ({ default: part.DayAnswer })),
);
export const StudiesPage = lazy(() =>
  import("./features/studies/StudiesPage").then((page) => ({ default: page.StudiesPage })),
);
export const StudyPage = lazy(() =>
  import("./features/studies/StudyPage").then((page) => ({ default: page.StudyPage })),
);
export const StripSheet = lazy(() =>
  import("./features/learning/StripSheet").then((part) => ({ default: part.StripSheet })),
);
export const DayPage = lazy(() =>
  import("./features/days/DayPage").then((page) => ({ default: page.DayPage })),
);
export const DaySheet = lazy(() =>
  import("./features/days/DaySheet").then((page) => ({ default: page.DaySheet })),
);
export const ChangePlanPage = lazy(() =>
  import("./features/plans/NewPlanPage").then((page) => ({ default: page.ChangePlanPage })),
);
export const NewPlanPage = lazy(() =>
  import("./features/plans/NewPlanPage").then((page) => ({ default: page.NewPlanPage })),
);
export const PlanPage = lazy(() =>
  import("./features/plans/PlanPage").then((page) => ({ default: page.PlanPage })),
);
export const HomePage = lazy(() =>
  import("./features/home/HomePage").then((page) => ({ default: page.HomePage })),
);
export const QuickPage = lazy(() =>
  import("./features/comparisons/quick/QuickPage").then((page) => ({ default: page.QuickPage })),
);
export const CarTimes = lazy(() =>
  import("./features/studies/CarTimes").then((part) => ({ default: part.CarTimes })),
);
export const RunBeside = lazy(() =>
  import("./features/comparisons/RunBeside").then((part) => ({ default: part.RunBeside })),
);
export const SlipPage = lazy(() =>
  import("./features/runs/SlipPage").then((page) => ({ default: page.SlipPage })),
);
export const PlansPage = lazy(() =>
  import("./features/plans/PlansPage").then((page) => ({ default: page.PlansPage })),
);
export const HeadsUpPage = lazy(() =>
  import("./features/recording/HeadsUpPage").then((page) => ({ default: page.HeadsUpPage })),
);
export const DevicesPage = lazy(() =>
  import("./features/recording/DevicesPage").then((page) => ({ default: page.DevicesPage })),
);
export const FillPage = lazy(() =>
  import("./features/runs/FillPage").then((page) => ({ default: page.FillPage })),
);
export const GridPage = lazy(() =>
  import("./features/runs/GridPage").then((page) => ({ default: page.GridPage })),
);
export const LogPage = lazy(() =>
  import("./features/runs/LogPage").then((page) => ({ default: page.LogPage })),
);
export const LogsPage = lazy(() =>
  import("./features/runs/LogsPage").then((page) => ({ default: page.LogsPage })),
);
export const RecordersPage = lazy(() =>
  import("./features/recording/RecordersPage").then((page) => ({ default: page.RecordersPage })),
);
export const StripPage = lazy(() =>
  import("./features/recording/StripPage").then((page) => ({ default: page.StripPage })),
);
export const RunSheet = lazy(() =>
  import("./features/runs/RunSheet").then((page) => ({ default: page.RunSheet })),
);
export const HelpPage = lazy(() =>
  import("./features/help/HelpPage").then((page) => ({ default: page.HelpPage })),
);
export const ImportPage = lazy(() =>
  import("./features/runs/ImportPage").then((page) => ({ default: page.ImportPage })),
);
