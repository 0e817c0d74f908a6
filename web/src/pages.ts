import { Drawn } from "./shared/LazyChart";
import { whenOpened } from "./shared/whenOpened";

/** What is beside other things keeps no place meanwhile. */
function nothing() {
  return null;
}

// Every page, and what it shows of another feature, is fetched when it is opened.
export const RunsPage = whenOpened(() => import("./features/runs/RunsPage").then(({ RunsPage }) => RunsPage));
export const CarPage = whenOpened(() => import("./features/cars/CarPage").then(({ CarPage }) => CarPage));
export const CarsPage = whenOpened(() => import("./features/cars/CarsPage").then(({ CarsPage }) => CarsPage));
export const ComparePage = whenOpened(() =>
  import("./features/comparisons/ComparePage").then(({ ComparePage }) => ComparePage),
);
export const ComparisonPage = whenOpened(() =>
  import("./features/comparisons/ComparisonPage").then(({ ComparisonPage }) => ComparisonPage),
);
export const ComparisonsPage = whenOpened(() =>
  import("./features/comparisons/ComparisonsPage").then(({ ComparisonsPage }) => ComparisonsPage),
);
export const CoursePage = whenOpened(() =>
  import("./features/courses/CoursePage").then(({ CoursePage }) => CoursePage),
);
export const CoursesPage = whenOpened(() =>
  import("./features/courses/CoursesPage").then(({ CoursesPage }) => CoursesPage),
);
export const NewDay = whenOpened(
  () => import("./features/days/NewDay").then(({ NewDay }) => NewDay),
  nothing,
);
export const Reminders = whenOpened(
  () => import("./features/plans/Reminders").then(({ Reminders }) => Reminders),
  nothing,
);
export const AllCarsPage = whenOpened(() =>
  import("./features/studies/AllCarsPage").then(({ AllCarsPage }) => AllCarsPage),
);
export const NewStudyPage = whenOpened(() =>
  import("./features/studies/NewStudyPage").then(({ NewStudyPage }) => NewStudyPage),
);
export const OwnMeasuresPage = whenOpened(() =>
  import("./features/studies/OwnMeasuresPage").then(({ OwnMeasuresPage }) => OwnMeasuresPage),
);
export const PlanAnswer = whenOpened(
  () => import("./features/studies/PlanAnswer").then(({ PlanAnswer }) => PlanAnswer),
  nothing,
);
export const DayAnswer = whenOpened(
  () => import("./features/studies/PlanAnswer").then(({ DayAnswer }) => DayAnswer),
  nothing,
);
export const StudiesPage = whenOpened(() =>
  import("./features/studies/StudiesPage").then(({ StudiesPage }) => StudiesPage),
);
export const StudyPage = whenOpened(() =>
  import("./features/studies/StudyPage").then(({ StudyPage }) => StudyPage),
);
export const StripSheet = whenOpened(
  () => import("./features/learning/StripSheet").then(({ StripSheet }) => StripSheet),
  nothing,
);
export const DayPage = whenOpened(() => import("./features/days/DayPage").then(({ DayPage }) => DayPage));
export const DaySheet = whenOpened(() => import("./features/days/DaySheet").then(({ DaySheet }) => DaySheet));
export const ChangePlanPage = whenOpened(() =>
  import("./features/plans/NewPlanPage").then(({ ChangePlanPage }) => ChangePlanPage),
);
export const NewPlanPage = whenOpened(() =>
  import("./features/plans/NewPlanPage").then(({ NewPlanPage }) => NewPlanPage),
);
export const PlanPage = whenOpened(() =>
  import("./features/plans/PlanPage").then(({ PlanPage }) => PlanPage),
);
export const HomePage = whenOpened(() => import("./features/home/HomePage").then(({ HomePage }) => HomePage));
export const QuickPage = whenOpened(() =>
  import("./features/comparisons/quick/QuickPage").then(({ QuickPage }) => QuickPage),
);
export const CarTimes = whenOpened(
  () => import("./features/studies/CarTimes").then(({ CarTimes }) => CarTimes),
  nothing,
);
export const RunBeside = whenOpened(
  () => import("./features/comparisons/RunBeside").then(({ RunBeside }) => RunBeside),
  nothing,
);
export const SlipPage = whenOpened(() => import("./features/runs/SlipPage").then(({ SlipPage }) => SlipPage));
export const PlansPage = whenOpened(() =>
  import("./features/plans/PlansPage").then(({ PlansPage }) => PlansPage),
);
export const HeadsUpPage = whenOpened(() =>
  import("./features/recording/HeadsUpPage").then(({ HeadsUpPage }) => HeadsUpPage),
);
export const PeoplePage = whenOpened(() =>
  import("./features/accounts/PeoplePage").then(({ PeoplePage }) => PeoplePage),
);
export const JoinPage = whenOpened(() =>
  import("./features/accounts/JoinPage").then(({ JoinPage }) => JoinPage),
);
export const DevicesPage = whenOpened(() =>
  import("./features/recording/DevicesPage").then(({ DevicesPage }) => DevicesPage),
);
export const FillPage = whenOpened(() => import("./features/runs/FillPage").then(({ FillPage }) => FillPage));
export const GridPage = whenOpened(() => import("./features/runs/GridPage").then(({ GridPage }) => GridPage));
export const LogPage = whenOpened(() => import("./features/runs/LogPage").then(({ LogPage }) => LogPage));
export const LogsPage = whenOpened(() => import("./features/runs/LogsPage").then(({ LogsPage }) => LogsPage));
export const RecordersPage = whenOpened(() =>
  import("./features/recording/RecordersPage").then(({ RecordersPage }) => RecordersPage),
);
export const StripPage = whenOpened(() =>
  import("./features/recording/StripPage").then(({ StripPage }) => StripPage),
);
export const ReportsPage = whenOpened(() =>
  import("./features/reports/ReportsPage").then(({ ReportsPage }) => ReportsPage),
);
export const ReportPage = whenOpened(() =>
  import("./features/reports/ReportPage").then(({ ReportPage }) => ReportPage),
);
export const RunSheet = whenOpened(() => import("./features/runs/RunSheet").then(({ RunSheet }) => RunSheet));
export const ShortcutList = whenOpened(
  () => import("./shared/ShortcutList").then(({ ShortcutList }) => ShortcutList),
  nothing,
);
export const Tour = whenOpened(() => import("./features/help/Tour").then(({ Tour }) => Tour), nothing);
export const HelpPage = whenOpened(() => import("./features/help/HelpPage").then(({ HelpPage }) => HelpPage));
export const ImportPage = whenOpened(() =>
  import("./features/runs/ImportPage").then(({ ImportPage }) => ImportPage),
);

/** Pages that are opened by their address, to be fetched while nobody knows yet who is logged in. */
const BY_ADDRESS: readonly [RegExp, ...{ fetch: () => Promise<unknown> }[]][] = [
  [/^\/$/, HomePage],
  [/^\/cars$/, CarsPage, CarTimes],
  [/^\/cars\/\d+$/, CarPage],
  [/^\/courses$/, CoursesPage],
  [/^\/plans$/, PlansPage],
  [/^\/plans\/new$/, NewPlanPage, Drawn],
  [/^\/plans\/\d+$/, PlanPage],
  [/^\/days\/\d+$/, DayPage],
  [/^\/record$/, RecordersPage],
  [/^\/record\/\d+$/, StripPage],
  [/^\/devices$/, DevicesPage],
  [/^\/people$/, PeoplePage],
  [/^\/join$/, JoinPage],
  [/^\/import$/, ImportPage],
  [/^\/runs$/, RunsPage],
  [/^\/runs\/\d+$/, RunSheet, Drawn, RunBeside],
  [/^\/runs\/\d+\/slip$/, SlipPage],
  [/^\/logs$/, LogsPage],
  [/^\/logs\/\d+$/, LogPage],
  [/^\/studies$/, StudiesPage],
  [/^\/studies\/new$/, NewStudyPage],
  [/^\/studies\/\d+$/, StudyPage, Drawn],
  [/^\/reports$/, ReportsPage],
  [/^\/reports\/\d+$/, ReportPage],
  [/^\/all-cars$/, AllCarsPage],
  [/^\/compare$/, ComparisonsPage],
  [/^\/compare\/new$/, ComparePage, Drawn],
  [/^\/compare\/quick$/, QuickPage],
  [/^\/compare\/\d+$/, ComparisonPage, Drawn],
];

/** Begin to fetch what the page of an address is made of; whatever goes wrong shows when it is drawn. */
export function loadEarly(address: string): void {
  const [, ...parts] = BY_ADDRESS.find(([pattern]) => pattern.test(address)) ?? [/^/];
  for (const part of parts) void part.fetch().catch(() => undefined);
}
