import { Button, Segmented, Select } from "antd";
import { useMemo, useState } from "react";
import { Link, Outlet, useLocation } from "react-router";

import { cautionAt } from "./caution";
import { Account } from "./features/accounts/Account";
import { useCarNames } from "./features/cars/queries";
import { UndoOffer } from "./features/history/UndoOffer";
import { Retiming } from "./features/runs/Retiming";
import { Upgraded } from "./Upgraded";
import { ShortcutList, Tour } from "./pages";
import { ErrorBoundary } from "./shared/ErrorBoundary";
import { usePreferences } from "./shared/preferences";
import { useDropped } from "./useDropped";
import { useGoTo, useKeys } from "./shared/shortcuts";

/** Tabs in the order of the day. */
const DAY = [
  { to: "/cars", name: "Cars" },
  { to: "/courses", name: "Courses" },
  { to: "/plans", name: "Plan" },
  { to: "/record", name: "Record" },
  { to: "/runs", name: "Runs" },
  { to: "/studies", name: "Studies" },
  { to: "/compare", name: "Compare" },
];

/** On a phone the tabs are wider than the screen: the one that is open is scrolled to. */
function intoSight(tab: HTMLAnchorElement | null): void {
  if (window.matchMedia("(max-width: 640px)").matches)
    tab?.scrollIntoView({ block: "nearest", inline: "center" });
}

/** A test day belongs to its plan. */
function isAt(tab: string, pathname: string): boolean {
  return (
    pathname.startsWith(tab) ||
    (tab === "/plans" && pathname.startsWith("/days")) ||
    (tab === "/record" && pathname.startsWith("/devices")) ||
    (tab === "/runs" && ["/logs", "/import"].some((page) => pathname.startsWith(page))) ||
    (tab === "/compare" && pathname.startsWith("/reports")) ||
    (tab === "/studies" && pathname.startsWith("/all-cars"))
  );
}

export function Frame() {
  const { family, setFamily, mode, setMode, tour } = usePreferences();
  const [listed, setListed] = useState(false);
  const go = useGoTo();
  const { pathname } = useLocation();
  const keys = useMemo(
    () => ({
      ...go,
      u: () => setFamily(family === "us" ? "metric" : "us"),
      d: () => setMode(mode === "light" ? "dark" : "light"),
      "?": () => setListed(true),
    }),
    [go, family, mode, setFamily, setMode],
  );
  useKeys(keys);
  const dropped = useDropped();
  return (
    <div className="frame">
      <header className="frame-head">
        <Link to="/" className="wordmark" aria-label="Coombe, home">
          Coombe
        </Link>
        <nav className="day" aria-label="The day">
          {DAY.map((step) => (
            <Link
              key={step.to}
              to={step.to}
              aria-current={isAt(step.to, pathname) ? "page" : undefined}
              ref={isAt(step.to, pathname) ? intoSight : undefined}
            >
              {step.name}
            </Link>
          ))}
        </nav>
        <div className="frame-tools">
          <CarChoice />
          <Segmented
            aria-label="Units"
            value={family}
            onChange={setFamily}
            options={[
              { value: "us", label: "mph · ft · °F" },
              { value: "metric", label: "km/h · m · °C" },
            ]}
          />
          <Button type="text" onClick={() => setMode(mode === "light" ? "dark" : "light")}>
            {mode === "light" ? "Dark" : "Light"}
          </Button>
          <Link to="/help" className="help" aria-label="Help">
            ?
          </Link>
          <Account />
        </div>
      </header>
      <main className="frame-body">
        <ErrorBoundary place={pathname}>
          {typeof tour === "number" && <Tour />}
          <Outlet context={dropped} />
        </ErrorBoundary>
      </main>
      <div className="notices no-print">
        <Upgraded />
        <Retiming />
        <UndoOffer />
      </div>
      <footer className="frame-foot">{cautionAt(pathname)}</footer>
      {listed && <ShortcutList open close={() => setListed(false)} />}
    </div>
  );
}

/** Which car everything is about; runs and comparisons follow it. */
function CarChoice() {
  const cars = useCarNames();
  const { car, setCar } = usePreferences();
  const options = cars.data?.map((each) => ({ value: each.id, label: each.name })) ?? [];
  return (
    <Select
      aria-label="Car"
      className="pick"
      placeholder="All cars"
      allowClear
      value={options.some((option) => option.value === car) ? car : null}
      onChange={(chosen: number | undefined) => setCar(chosen ?? null)}
      options={options}
    />
  );
}
