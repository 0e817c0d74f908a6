import { useEffect, useMemo, useSyncExternalStore } from "react";

export type Word = "no fix" | "ready" | "rolling" | "staged" | "running" | "hold on" | "done" | "disk full";

export interface Glance {
  word: Word;
  utc_s: number | null;
  speed_mps: number;
  since_s: number | null;
  distance_m: number | null;
  reached_s: number | null;
  measure: string;
  arrived_at: number;
}

export interface State {
  charge_percent: number | null;
  battery_temp_c: number | null;
  drive_mode: string;
  wind_mps: number | null;
  wind_from_deg: number | null;
  outside_temp_c: number | null;
  devices: Partial<Record<"receiver" | "can" | "weather_station", boolean>>;
  trouble: string;
  database: boolean;
  waiting: number;
  fixes: number;
  last_end_s: number | null;
}

/** `link` is whether the server answers, `recorder` whether the recorder's process does. */
export interface Live {
  glance: Glance | null;
  state: State | null;
  link: boolean;
  recorder: boolean;
}

type Report =
  | ({ t: "glance" } & Glance)
  | ({ t: "state" } & State)
  | { t: "run"; id: number; kind: string }
  | { t: "away" };

/** What calls for something to be done: a run was stored, the target was reached, the server answers again. */
export interface Happenings {
  run?: () => void;
  target?: () => void;
  link?: () => void;
}

/** What a recorder reports, kept outside of React so that a fix redraws only what shows it. */
export class LiveStore {
  private now: Live = { glance: null, state: null, link: false, recorder: false };
  private readonly listeners = new Set<() => void>();
  private source: EventSource | null = null;
  private happened: Happenings = {};
  private frame: number | null = null;

  constructor(private readonly id: number) {}

  open = () => {
    this.source = new EventSource(`/api/v1/recorders/${this.id}/live/`);
    this.source.onopen = () => {
      this.set({ link: true });
      this.happened.link?.();
    };
    this.source.onerror = () => {
      this.set({ link: false });
      // A refused stream is not opened again by the browser.
      if (this.source?.readyState === EventSource.CLOSED) window.setTimeout(this.reopen, 2000);
    };
    this.source.onmessage = (event: MessageEvent<string>) => this.take(JSON.parse(event.data) as Report);
  };

  when = (happened: Happenings) => {
    this.happened = happened;
  };

  close = () => {
    this.source?.close();
    this.source = null;
  };

  private readonly reopen = () => {
    if (this.source) this.open();
  };

  private take(report: Report) {
    if (report.t === "glance") {
      const before = this.now.glance;
      this.set({ glance: report, recorder: true, link: true });
      if (before && before.reached_s === null && report.reached_s !== null) this.happened.target?.();
    } else if (report.t === "state") this.set({ state: report, recorder: true, link: true });
    else if (report.t === "run") this.happened.run?.();
    else this.set({ recorder: false, link: true, glance: null, state: null });
  }

  /** What came is there at once; who shows it hears once a frame, however many fixes came in it. */
  private set(change: Partial<Live>) {
    this.now = { ...this.now, ...change };
    this.frame ??= requestAnimationFrame(() => {
      this.frame = null;
      for (const listener of this.listeners) listener();
    });
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  snapshot = () => this.now;
}

export function useLiveStore(id: number): LiveStore {
  const store = useMemo(() => new LiveStore(id), [id]);
  useEffect(() => {
    store.open();
    return store.close;
  }, [store]);
  return store;
}

export function useLive(store: LiveStore): Live {
  return useSyncExternalStore(store.subscribe, store.snapshot);
}

/** A part that only now and then changes, so that its readers are not drawn with every fix. */
export function useLivePart<T extends string | number | boolean | null | undefined>(
  store: LiveStore,
  part: (live: Live) => T,
): T {
  return useSyncExternalStore(store.subscribe, () => part(store.snapshot()));
}

export function useLiveState(store: LiveStore): State | null {
  return useSyncExternalStore(store.subscribe, () => store.snapshot().state);
}
