import { Button } from "antd";
import { useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { useTitle } from "../../shared/useTitle";
import { usePreferences } from "../../shared/preferences";
import { useKeys } from "../../shared/shortcuts";
import { Failed, Loading } from "../../shared/States";
import { fixed, shown, unitOf } from "../../shared/units";
import { useSession } from "../accounts/session";
import { useHeadsUp, useHeadsUpActions, type HeadsUp, type Outcome } from "./headsUp";
import { useLive, useLiveStore } from "./live";
import { Tone } from "./tone";

/** Two cars side by side: their words, the start signal, and who was ahead by how much where. */
export function HeadsUpPage() {
  useTitle("Heads-up");
  const id = Number(useParams().id);
  const pair = useHeadsUp(id);
  if (pair.data) return <HeadsUpScreen pair={pair.data} />;
  if (pair.error) return <Failed error={pair.error} retry={() => void pair.refetch()} />;
  return <Loading what="the heads-up" />;
}

function HeadsUpScreen({ pair }: { pair: HeadsUp }) {
  const { person } = useSession();
  const navigate = useNavigate();
  const { signal, again } = useHeadsUpActions(pair.id);
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
      </div>
      <div className="columns even">
        <LaneSheet lane="Left" name={pair.left_car} recorder={pair.left} />
        <LaneSheet lane="Right" name={pair.right_car} recorder={pair.right} />
      </div>
      {mayWrite && (
        <div className="choices" style={{ marginBottom: 14 }}>
          <button type="button" onClick={() => keys.g?.()}>
            <kbd>g</kbd> give the start signal
          </button>
          <Button onClick={next} loading={again.isPending}>
            Next, lanes swapped
          </Button>
          {sign && (
            <strong className={sign === "go" ? "verdict" : undefined} role="status">
              {sign === "go" ? "Go" : "Hold for the tone"}
            </strong>
          )}
        </div>
      )}
      {pair.outcome ? (
        <OutcomeSheet pair={pair} outcome={pair.outcome} />
      ) : (
        <section className="sheet" aria-label="Outcome">
          <p className="quiet">
            Armed. The next standing start of each car counts, from its own first movement; it shows here two
            seconds after the later one has ended.
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

function OutcomeSheet({ pair, outcome }: { pair: HeadsUp; outcome: Outcome }) {
  const { family } = usePreferences();
  const unit = unitOf("distance", family);
  const last = outcome.standings.at(-1);
  const ahead = (gap: number) => (gap >= 0 ? pair.left_car : pair.right_car);
  return (
    <section className="sheet" aria-label="Outcome">
      {last && (
        <>
          <div className="label">At {last.name}, each from its own first movement</div>
          <div className="verdict" data-testid="ahead">
            {last.shown
              ? `${ahead(last.gap_s.value)} ahead by ${fixed(Math.abs(last.gap_s.value), 2)} s`
              : "Too close to tell"}{" "}
            <small className="u95">± {fixed(last.gap_s.u95, 2)} s</small>
          </div>
        </>
      )}
      <table className="plain" style={{ maxWidth: 640 }}>
        <thead>
          <tr>
            <th>At</th>
            <th>Ahead</th>
            <th className="n">by, s</th>
            <th className="n">± s</th>
            <th className="n">by, {unit.name}</th>
          </tr>
        </thead>
        <tbody>
          {outcome.standings.map((each) => (
            <tr key={each.name}>
              <td>{each.name}</td>
              <td>{each.shown ? ahead(each.gap_s.value) : "too close"}</td>
              <td className="n">{fixed(Math.abs(each.gap_s.value), 2)}</td>
              <td className="n">{fixed(each.gap_s.u95, 2)}</td>
              <td className="n">{fixed(shown(each.gap_m, "distance", family), 1)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        Apart from that: {outcome.left_first_s.value >= 0 ? pair.left_car : pair.right_car} moved first, by{" "}
        {fixed(Math.abs(outcome.left_first_s.value), 2)} s ± {fixed(outcome.left_first_s.u95, 2)}.
        {outcome.left_reaction_s && outcome.right_reaction_s && (
          <>
            {" "}
            Reaction to the signal: {pair.left_car} {fixed(outcome.left_reaction_s.value, 2)} s,{" "}
            {pair.right_car} {fixed(outcome.right_reaction_s.value, 2)} s, each ±{" "}
            {fixed(outcome.left_reaction_s.u95, 2)}.
          </>
        )}
      </p>
      <p>
        The sheets: <Link to={`/runs/${outcome.left_run}`}>{pair.left_car}</Link>,{" "}
        <Link to={`/runs/${outcome.right_run}`}>{pair.right_car}</Link>
      </p>
    </section>
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
