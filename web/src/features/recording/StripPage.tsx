import { Button } from "antd";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";

import { keepForOffline } from "../../shared/offline";
import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { useKeys } from "../../shared/shortcuts";
import { Failed, Loading } from "../../shared/States";
import { useSession } from "../accounts/session";
import { Chips } from "./Chips";
import { GlanceView } from "./GlanceView";
import { useKeyQueue } from "./keys";
import { LastRun } from "./LastRun";
import { useLivePart, useLiveState, useLiveStore, type LiveStore } from "./live";
import { NextUp } from "./NextUp";
import { useRecorderActions, useStrip, type Strip } from "./queries";
import { RunConditions } from "./RunConditions";
import { SimulationPanel } from "./SimulationPanel";
import { Tone } from "./tone";

const GAP_TOLD_S = 60;

/** The screen of a parked car in the sun: one glance, one key. It fills the window, without the frame. */
export function StripPage() {
  const id = Number(useParams().id);
  const strip = useStrip(id);
  useTitle(strip.data?.recorder.name);
  const there = strip.data !== undefined;
  useEffect(() => {
    if (there) keepForOffline();
  }, [there]);
  const store = useLiveStore(id);
  if (strip.data) return <StripScreen strip={strip.data} store={store} />;
  if (strip.error) return <Failed error={strip.error} retry={() => void strip.refetch()} />;
  return <Loading what="the strip screen" />;
}

function StripScreen({ strip, store }: { strip: Strip; store: LiveStore }) {
  const { recorder } = strip;
  const client = useQueryClient();
  const { person } = useSession();
  const mayWrite = person?.may_write === true;
  const { start, stop } = useRecorderActions(recorder.id);
  const { press, waiting, refused, send } = useKeyQueue(recorder.id);
  const [correcting, setCorrecting] = useState(false);
  const tone = useMemo(() => new Tone(), []);
  const measure = useLivePart(store, ({ glance }) => glance?.measure) ?? recorder.measure ?? "0-60 mph";
  useEffect(() => {
    const refresh = () => void client.invalidateQueries({ queryKey: ["strip", recorder.id] });
    store.when({
      run: refresh,
      target: () => tone.play(),
      link: () => {
        void send();
        refresh();
      },
    });
  }, [store, client, recorder.id, tone, send]);
  const run = strip.last_run ?? strip.last_stop;
  const keys = useMemo(() => {
    if (!mayWrite) return {};
    const begin = () => {
      tone.allow();
      if (!recorder.wanted) start.mutate();
    };
    const reasons = strip.reasons.map((reason, place) => [
      String(place + 1),
      () => run && press({ action: "void", run: run.id, revision: run.revision, reason }),
    ]);
    return {
      Enter: begin,
      k: () => run && press({ action: "keep", run: run.id, revision: run.revision }),
      ...(Object.fromEntries(reasons) as Record<string, () => void>),
      z: () => (strip.undoable ?? waiting.length > 0) && press({ action: "undo" }),
      n: () => strip.next && press({ action: "skip" }),
      c: () => run && setCorrecting(true),
      t: () => {
        tone.allow();
        tone.play();
      },
    } as Record<string, () => void>;
  }, [mayWrite, recorder.wanted, start, strip, run, waiting.length, press, tone]);
  useKeys(keys);
  return (
    <div className="strip-screen" onPointerDown={() => tone.allow()} onKeyDown={() => tone.allow()}>
      <Head strip={strip} store={store} waiting={waiting.length} refused={refused} />
      <main>
        <GlanceView
          store={store}
          recording={recorder.wanted}
          last={strip.last_run}
          clock={strip.clock}
          measure={measure}
        />
        {!recorder.wanted && mayWrite && (
          <div className="begin">
            <Button type="primary" size="large" onClick={() => keys.Enter?.()} loading={start.isPending}>
              Start recording <kbd>Enter</kbd>
            </Button>
          </div>
        )}
        <Chips strip={strip} store={store} />
        <div className="columns">
          <LastRun strip={strip} measure={measure} waiting={waiting} press={press} mayWrite={mayWrite} />
          <div>
            <NextUp strip={strip} press={press} mayWrite={mayWrite} />
            {run && (
              <RunConditions
                run={run}
                suggested={strip.suggested}
                open={correcting}
                show={setCorrecting}
                press={press}
                mayWrite={mayWrite}
              />
            )}
          </div>
        </div>
        {recorder.simulation && mayWrite && <SimulationPanel strip={strip} />}
        {recorder.wanted && mayWrite && (
          <Button onClick={() => stop.mutate()} loading={stop.isPending}>
            Stop recording
          </Button>
        )}
      </main>
      <footer className="frame-foot">
        The driver never operates this screen. Closed course, runout clear, belts on, brakes cool.
      </footer>
    </div>
  );
}

interface HeadProps {
  strip: Strip;
  store: LiveStore;
  waiting: number;
  refused: string;
}

const DEVICE_NAMES: Record<string, string> = {
  receiver: "GPS receiver",
  can: "CAN",
  weather_station: "Weather station",
};

/** Which car and question, which devices are there, and everything that is wrong, in words. */
function Head({ strip, store, waiting, refused }: HeadProps) {
  const { recorder } = strip;
  const { mode, setMode, family, setFamily } = usePreferences();
  const link = useLivePart(store, (live) => live.link);
  const state = useLiveState(store);
  const now_s = useLivePart(store, ({ glance }) => (glance?.utc_s ? Math.floor(glance.utc_s) : null));
  const devices = Object.entries(state?.devices ?? {});
  const troubles = [
    !link && "The server does not answer; this is the last known state.",
    waiting > 0 && `${waiting} ${waiting === 1 ? "key is waiting" : "keys are waiting"} for the server.`,
    state && !state.database && "The database does not answer; runs wait in the recorder.",
    recorder.wanted && state?.trouble,
    recorder.wanted && !state && recorder.trouble,
    refused,
    ...strip.gaps
      .slice(0, 1)
      .filter((gap) => now_s !== null && now_s - Date.parse(gap.to_utc) / 1000 < GAP_TOLD_S)
      .map((gap) => `${(gap.to_s - gap.from_s).toFixed(1)} s without fixes: ${gap.cause}.`),
  ].filter(Boolean) as string[];
  return (
    <header className="strip-head">
      <Link to="/record" className="wordmark">
        Coombe
      </Link>
      <h1>{recorder.question ?? recorder.name}</h1>
      {recorder.wanted &&
        devices.map(([name, there]) => (
          <span key={name} className={there ? "device" : "device not connected"}>
            {DEVICE_NAMES[name] ?? name} {there ? "on" : "away"}
          </span>
        ))}
      <span className="push">
        <Button type="text" onClick={() => setFamily(family === "us" ? "metric" : "us")}>
          {family === "us" ? "To km/h" : "To mph"}
        </Button>
        <Button type="text" onClick={() => setMode(mode === "light" ? "dark" : "light")}>
          {mode === "light" ? "Dark" : "Light"}
        </Button>
      </span>
      {troubles.map((trouble) => (
        <p key={trouble} className="flag caution" role="status">
          {trouble}
        </p>
      ))}
    </header>
  );
}
