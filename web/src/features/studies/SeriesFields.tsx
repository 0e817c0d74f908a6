import { Button, Input, Select } from "antd";
import { useState, type ReactNode } from "react";

import { useCarNames, useSetups } from "../cars/queries";
import { useReceivers } from "../../shared/useReceivers";
import { MOST_SERIES, unused, type AskedSeries } from "./ask";
import type { StudyAsk } from "./queries";

interface Props {
  ask: StudyAsk;
  change: (changes: Partial<StudyAsk>) => void;
}

/** What the study lays beside one another: a car each, narrowed by setup, days, mode and receiver. */
export function SeriesFields({ ask, change }: Props) {
  const cars = useCarNames().data ?? [];
  const series = ask.series ?? [];
  const put = (place: number, changes: Partial<AskedSeries>) =>
    change({ series: series.map((each, n) => (n === place ? { ...each, ...changes } : each)) });
  const add = () => {
    const next = cars.find((car) => !series.some((each) => each.car === car.id)) ?? cars[0];
    if (next) change({ series: [...series, { name: unused(next.name, series), car: next.id }] });
  };
  return (
    <>
      {series.map((each, place) => (
        <OneSeries
          key={place}
          series={each}
          put={(changes) => put(place, changes)}
          {...(series.length > 1
            ? { remove: () => change({ series: series.filter((_, n) => n !== place) }) }
            : {})}
        />
      ))}
      {series.length < MOST_SERIES && (
        <Button size="small" onClick={add} disabled={cars.length === 0}>
          Lay another beside it
        </Button>
      )}
    </>
  );
}

function OneSeries(props: {
  series: AskedSeries;
  put: (changes: Partial<AskedSeries>) => void;
  remove?: () => void;
}) {
  const { series, put, remove } = props;
  const cars = useCarNames().data ?? [];
  const receivers = useReceivers().data ?? [];
  const [asked, setAsked] = useState(Boolean(series.setup)); // of most series it never is
  const setups = useSetups(series.car, asked).data ?? [];
  return (
    <div className="series-row" role="group" aria-label={`Series ${series.name}`}>
      <Labeled label="Car">
        <Select
          aria-label="Car"
          value={series.car}
          options={cars.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: number) =>
            put({ car: id, setup: null, name: cars.find((each) => each.id === id)?.name ?? series.name })
          }
        />
      </Labeled>
      <Labeled label="Setup">
        <Select
          aria-label="Setup"
          allowClear
          placeholder="any"
          value={series.setup ?? null}
          onFocus={() => setAsked(true)}
          options={setups.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(id: number | undefined) => put({ setup: id ?? null })}
        />
      </Labeled>
      <Labeled label="From day">
        <Input
          aria-label="From day"
          type="date"
          value={series.from_day ?? ""}
          onChange={(event) => put({ from_day: event.target.value || null })}
        />
      </Labeled>
      <Labeled label="To day">
        <Input
          aria-label="To day"
          type="date"
          value={series.to_day ?? ""}
          onChange={(event) => put({ to_day: event.target.value || null })}
        />
      </Labeled>
      <Labeled label="Drive mode">
        <Text label="Drive mode" value={series.drive_mode} done={(drive_mode) => put({ drive_mode })} />
      </Labeled>
      <Labeled label="Receiver">
        <Select
          aria-label="Receiver"
          allowClear
          placeholder="any"
          value={series.receiver || null}
          options={receivers.map(({ name }) => ({ value: name, label: name }))}
          onChange={(name: string | undefined) => put({ receiver: name ?? "" })}
        />
      </Labeled>
      <Labeled label="Called">
        <Text label="Name of the series" value={series.name} done={(name) => put({ name })} />
      </Labeled>
      {remove && (
        <Button size="small" onClick={remove} aria-label={`Remove series ${series.name}`}>
          Remove
        </Button>
      )}
    </div>
  );
}

function Labeled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="series-field">
      <span className="label">{label}</span>
      {children}
    </div>
  );
}

/** Words that count once they are typed to the end. */
function Text(props: { label: string; value: string | undefined; done: (value: string) => void }) {
  const { label, value = "", done } = props;
  return (
    <Input
      key={value}
      aria-label={label}
      placeholder="any"
      defaultValue={value}
      maxLength={60}
      onBlur={(event) => event.target.value !== value && done(event.target.value)}
      onPressEnter={(event) => done(event.currentTarget.value)}
    />
  );
}
