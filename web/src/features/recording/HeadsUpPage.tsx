import { Button } from "antd";
import { useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { useKeys } from "../../shared/shortcuts";
import { DeleteButton } from "../../shared/DeleteButton";
import { useDelete } from "../../shared/useDelete";
import { Failed, Loading } from "../../shared/States";
import { fixed, shown, unitOf } from "../../shared/units";
import { useSession } from "../accounts/session";
import { OutcomeSheet, type Also } from "./HeadsUpOutcome";
import { useHeadsUp, useHeadsUpActions, type HeadsUp } from "./headsUp";
import { useLive, useLiveStore } from "./live";
import { useSimulation } from "./queries";
import { Tone } from "./tone";

/** Two cars side by side: their words, the start signal, and who was ahead by how much where. */
export function HeadsUpPage() {
  useTitle("Heads-up");
  const id = Number(useParams().id);
  const [also, setAlso] = useState<number | null>(null);
  const pair = useHeadsUp(id, also ?? undefined);
  if (pair.data) return <HeadsUpScreen pair={pair.data} also={also} setAlso={setAlso} />;
  if (pair.error) return <Failed error={pair.error} retry={() => void pair.refetch()} />;
  return <Loading what="the heads-up" />;
}

function HeadsUpScreen({ pair, also, setAlso }: { pair: HeadsUp } & Also) {
  const { person } = useSession();
  const navigate = useNavigate();
  const { signal, again } = useHeadsUpActions(pair.id);
  const remove = useDelete("/api/v1/heads-up-runs/{id}/", pair.id);
  const tone = useMemo(() => new Tone(), []);
  const sign = useSignal(pair.signal_at, tone);
  const mayWrite = person?.may_write === true;
  const keys = useMemo(() => {
    if (!mayWrite) return {};
    return {
      g: () => {
        tone.allow();
        signal.mutate();
      },
    } as Record<string, () => void>;
  }, [mayWrite, signal, tone]);
  useKeys(keys);
  const next = () =>
    again.mutate(undefined, { onSuccess: (made) => void navigate(`/record/heads-up/${made.id}`) });
  return (
    <>
      <div className="page-head">
        <h1>Heads-up</h1>
        <Link to="/record">Recorders</Link>
        {mayWrite && (
          <span className="push">
            <DeleteButton
              name="this heads-up"
              note="Both recorders and their runs stay."
              remove={remove}
              done={() => void navigate("/record")}
            />
          </span>
        )}
      </div>
      <div className="columns even">
        <LaneSheet lane="Left" name={pair.left_car} recorder={pair.left} />
        <LaneSheet lane="Right" name={pair.right_car} recorder={pair.right} />
      </div>
      {mayWrite && (
        <div className="choices below">
          <button type="button" onClick={() => keys.g?.()}>
            <kbd>g</kbd> Start signal
          </button>
          <Button onClick={next} loading={again.isPending}>
            Next run, lanes swapped
          </Button>
          <LaunchBoth pair={pair} />
          {sign && (
            <strong className={sign === "go" ? "verdict" : undefined} role="status">
              {sign === "go" ? "Go" : "Hold for the tone"}
            </strong>
          )}
        </div>
      )}
      {pair.outcome ? (
        <OutcomeSheet pair={pair} outcome={pair.outcome} also={also} setAlso={setAlso} />
      ) : (
        <section className="sheet" aria-label="Outcome">
          <p className="quiet">
            Armed. The next standing start of each car counts, from its own first movement. The result appears
            two seconds after the later one ends.
          </p>
        </section>
      )}
    </>
  );
}

function LaneSheet({ lane, name, recorder }: { lane: string; name: string; recorder: number }) {
  const store = useLiveStore(recorder);
  const { glance, recorder: there } = useLive(store);
  const { family } = usePreferences();
  const unit = unitOf("speed", family);
  return (
    <section className="sheet" aria-label={`${lane} lane`}>
      <div className="label">
        {lane} lane: <Link to={`/record/${recorder}`}>{name}</Link>
      </div>
      <div className="verdict">{there && glance ? glance.word : "off"}</div>
      <div className="answer">
        {there && glance ? fixed(shown(glance.speed_mps, "speed", family), 0) : "–"}{" "}
        <small>{unit.name}</small>
      </div>
    </section>
  );
}

/** Has both simulated cars launch; nothing where a real car is in a lane. */
function LaunchBoth({ pair }: { pair: HeadsUp }) {
  const left = useSimulation(pair.left);
  const right = useSimulation(pair.right);
  if (!left.stands.data || !right.stands.data) return null;
  const launch = () => [left, right].forEach(({ order }) => order.mutate({ drive: "launch" }));
  return (
    <>
      <Button onClick={launch} loading={left.order.isPending || right.order.isPending}>
        Launch both simulated cars
      </Button>
      {(left.order.error ?? right.order.error) && (
        <span className="flag void">{(left.order.error ?? right.order.error)?.message}</span>
      )}
    </>
  );
}

const SIGN_LASTS_MS = 4000;

/** `hold` until the signal, then `go` for a while, with the tone. */
function useSignal(at: string | null, tone: Tone): "hold" | "go" | null {
  const [sign, setSign] = useState<"hold" | "go" | null>(null);
  useEffect(() => {
    const wait = at ? Date.parse(at) - Date.now() : -1;
    if (wait < 0) return;
    const timers = [
      window.setTimeout(() => setSign("hold"), 0),
      window.setTimeout(() => {
        setSign("go");
        tone.play();
      }, wait),
      window.setTimeout(() => setSign(null), wait + SIGN_LASTS_MS),
    ];
    return () => timers.forEach((timer) => window.clearTimeout(timer));
  }, [at, tone]);
  return sign;
}
