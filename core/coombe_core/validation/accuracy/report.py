"""The accuracy page: error and coverage against simulated truth, beside interpolation, the bound and the targets."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from coombe_core.fitting.torque_ramp import SHAPES
from coombe_core.validation.accuracy.finding import Finding
from coombe_core.validation.accuracy.trials import (
    QUANTITIES,
    RAMPS_S,
    Quantity,
    Setting,
    Summary,
    Trial,
    by_ramp,
    summed_up,
)

COVERAGE = (0.92, 0.98)
UNITS = {"time_s": ("ms", 1e3), "line_speed_mps": ("mm/s", 1e3), "trap_speed_mps": ("mm/s", 1e3)}
METERS = ("mm", 1e3)
FIRST_MOVEMENT = Quantity("0-60 mph", "first_movement")
EACH = (0.90, 0.99)  # in every single cell, and COVERAGE over all of them
LEAST_TRIALS = 100  # fewer can't tell 92 from 98 %
LEAST_IN_A_CELL = 30


@dataclass(frozen=True)
class Target:
    """Limit of a parametric run without knowledge of the ramp, and the target, both RMS in SI units at 25 Hz."""

    limit: float | None
    rms: float
    bias: float | None = None


TARGETS: Mapping[tuple[str, str, str], Target] = {
    FIRST_MOVEMENT.key: Target(0.038, 0.025, 0.008),
    ("0-60 mph", "rollout", "time_s"): Target(0.0032, 0.005),
    ("60-90 mph", "speed", "time_s"): Target(0.0028, 0.0045),
    ("1/4 mile", "rollout", "time_s"): Target(0.0026, 0.004),
    ("1/4 mile", "rollout", "line_speed_mps"): Target(0.011, 0.018),
    ("100-0 km/h", "speed", "distance_m"): Target(None, 0.15),
}


@dataclass(frozen=True)
class Run:
    """Trials at one setting, and by how much the targets are multiplied there; None where they do not apply."""

    setting: Setting
    trials: Sequence[Trial]
    allowed: float | None

    @property
    def title(self) -> str:
        """The setting in words."""
        return f"{self.setting.rate_hz:g} Hz, speed noise {self.setting.noise_mps:g} m/s"


@dataclass(frozen=True)
class Beyond:
    """Trials of one variant at one setting."""

    variant: str
    setting: Setting
    trials: Sequence[Trial]

    @property
    def flagged(self) -> float:
        """The share of all numbers whose runs are flagged as less sure."""
        return sum(len(trial.flagged) for trial in self.trials) / sum(len(trial.errors) for trial in self.trials)

    @property
    def cells(self) -> list[tuple[Quantity, Summary]]:
        """Every quantity of enough runs that are not flagged."""
        unflagged = [trial.unflagged() for trial in self.trials]
        each = ((quantity, summed_up(unflagged, quantity)) for quantity in QUANTITIES)
        return [(quantity, found) for quantity, found in each if found and found.count >= LEAST_IN_A_CELL]

    @property
    def loose(self) -> list[tuple[Quantity, Summary]]:
        """Those whose intervals hold the truth too seldom, beyond what as many trials leave to chance."""
        return [(quantity, found) for quantity, found in self.cells if _surely_under(found.covered, found.count)]

    @property
    def wide(self) -> list[Quantity]:
        """Those whose intervals hold the truth too often, of enough trials."""
        return [each for each, found in self.cells if found.count >= LEAST_TRIALS and found.covered > EACH[1]]

    @property
    def held(self) -> float:
        """How often all of these intervals held the truth; nan where every run is flagged."""
        if not self.cells:
            return float("nan")
        return float(np.average([found.covered for _, found in self.cells], weights=[f.count for _, f in self.cells]))


def _surely_under(share: float, count: int) -> bool:
    """Whether a share is under that of every cell by more than two standard errors, or at all with many trials."""
    return share < EACH[0] - (0.0 if count >= LEAST_TRIALS else 2 * np.sqrt(EACH[0] * (1 - EACH[0]) / count))


def misses(runs: Sequence[Run]) -> list[str]:
    """Every target, and every coverage at a setting that has targets, that does not hold, in words."""
    found = []
    for run in runs:
        if run.allowed is None:
            continue
        for quantity, summary in _summaries(run):
            target = TARGETS.get(quantity.key)
            where = f"{run.title}: {_name(quantity)}"
            if target and summary.rms > target.rms * run.allowed:
                found.append(f"{where}: RMS {_shown(quantity, summary.rms)} is over the target")
            if target and target.bias and abs(summary.bias) > target.bias * run.allowed:
                found.append(f"{where}: bias {_shown(quantity, summary.bias)} is over the target")
        found += _uncovered(run)
    return found


def _uncovered(run: Run) -> list[str]:
    """Every coverage outside its band, in words."""
    return [
        f"{run.title}: {_name(quantity)}: the 95 % interval holds the truth in {summary.covered:.1%}"
        for quantity, summary in _summaries(run)
        if summary.count >= LEAST_TRIALS and not COVERAGE[0] <= summary.covered <= COVERAGE[1]
    ]


def _over_all(runs: Sequence[Run], beyond: Sequence[Beyond]) -> Iterator[str]:
    """How often all intervals held, of the usual cars and of the others, where that is outside its band."""
    usual = [(found.covered, found.count) for run in runs for _, found in _summaries(run)]
    others = [(found.covered, found.count) for each in beyond for _, found in each.cells]
    for name, cells in (("the usual cars", usual), ("all others", others)):
        held = float(np.average([share for share, _ in cells], weights=[count for _, count in cells]))
        if not COVERAGE[0] <= held <= COVERAGE[1]:
            yield f"Of {name} {held:.1%} of all 95 % intervals hold the truth; 92-98 % is asked for."


def _summaries(run: Run) -> Iterator[tuple[Quantity, Summary]]:
    for quantity in QUANTITIES:
        if summary := summed_up(run.trials, quantity):
            yield quantity, summary


def page(runs: Sequence[Run], beyond: Sequence[Beyond], finding: Finding, seed: int, chart: str) -> str:
    """The page in Markdown; `chart` is the name of the picture beside it."""
    lines = [
        "# Accuracy",
        "",
        "## Where it does not hold",
        "",
        *_where_not(runs, beyond),
        *_not_found(finding),
        "",
        "## The usual cars",
        "",
        f"Made by `./coombe accuracy` (seed {seed}). Simulated cars of 115-200 W/kg and 0.75-1.05 g, torque ramps of",
        "0.05-0.25 s in three shapes, lag-1 correlation of the noise 0.3 at 25 Hz; truth at 1 kHz. Every run is a",
        "standing quarter mile, every stop one from 103-112 km/h. Interpolation is what a tester has today: the first",
        "fix over 0.5 m/s as the start, straight lines between fixes. The bound is that of a parametric run at 25 Hz",
        "without knowledge of the ramp. u95 is the median of what was stated; held is how often it held the truth.",
        "",
        f"![Share of errors within a multiple of u95]({chart})",
        "",
    ]
    for run in runs:
        lines += [f"### {run.title}", "", *_table(run), ""]
    lines += ["### First movement by ramp", "", *_ramps(runs[0]), ""]
    lines += ["## Other cars, brakes, receivers and courses", "", *_beyond(beyond), ""]
    lines += ["## What is found", "", *_found(finding)]
    return "\n".join(lines) + "\n"


def _where_not(runs: Sequence[Run], beyond: Sequence[Beyond]) -> list[str]:
    """Every miss, and what no trial shows."""
    missed = misses(runs)
    lines = [f"- {miss}." for miss in missed] or ["- Where there are targets none is missed, and coverage is 92-98 %."]
    lines += [f"- {miss}" for miss in _over_all(runs, beyond)]
    lines += [f"- {loose}." for run in runs if run.allowed is None for loose in _uncovered(run)]
    lines += [
        f"- {each.variant}, {each.setting.rate_hz:g} Hz: {_name(quantity)}: held in {found.covered:.0%}, "
        f"bias {_shown(quantity, found.bias)}, RMS {_shown(quantity, found.rms)}, u95 {_shown(quantity, found.u95)}."
        for each in beyond
        for quantity, found in each.loose
    ]
    lines += [
        f"- {each.variant}, {each.setting.rate_hz:g} Hz: held in over 99 %: {'; '.join(map(_name, each.wide))}."
        for each in beyond
        if each.wide
    ]
    return [
        *lines,
        "- One car has one ramp: the bias of first movement by shape and duration does not average out over its runs.",
        "- The distance from brake onset carries the doubt about where the bite begins, unless CAN data has the pedal.",
        "- The time of a stop counts to rest; how a car comes to rest is below the noise. An end that may take over",
        "  0.075 s is flagged, at 5 Hz every one. Brakes that are eased off over 0.03-0.15 s are often not seen, so",
        "  that no time to rest is surer than 0.035 s: too wide where they are held to the end, as they usually are.",
        "- With one fix a second a line or a speed that is passed within a second of the lift or the bite is doubtful.",
        "- A receiver that smooths its speed shows by soft starts and ends only: of 0.2 s all are flagged, of 0.1 s",
        "  nine in ten, of 0.05 s a third to a half, and where nothing is smoothed one in twelve, at 10 Hz a fifth.",
        "  The others are late, by 16 ms (0.1 s) or 4 ms, and the softer their start the wider their intervals, also",
        "  where nothing is smoothed. A registered receiver is corrected and surer.",
        "- A car that pulls under 40 W/kg at the wheels, or under 120 W/kg and hardly slows after a roll-on,",
        "  passes for one in traffic.",
        "- Speed worked out from positions and wheel spin are not simulated here.",
    ]


def _beyond(beyond: Sequence[Beyond]) -> list[str]:
    """A row for each variant, with its worst quantity at each rate."""
    lines = [
        "Each changes one thing, by a size that is drawn anew for every run; a start, a stop and a roll-on each.",
        "Over all is how often all intervals held; the worst is the quantity that held least often, and how often.",
        "Runs that are flagged as less sure are not counted; flagged is their share.",
        "",
        "| what | rate | runs | flagged | over all | worst | held | bias | RMS | u95 |",
        "| --- | ---: | ---: | ---: | ---: | --- | ---: | ---: | ---: | ---: |",
    ]
    for each in beyond:
        cells = [each.variant, f"{each.setting.rate_hz:g} Hz", str(len(each.trials)), f"{each.flagged:.0%}"]
        if each.cells:
            quantity, found = min(each.cells, key=lambda cell: cell[1].covered)
            numbers = [_shown(quantity, value) for value in (found.bias, found.rms, found.u95)]
            cells += [f"{each.held:.1%}", _name(quantity), f"{found.covered:.0%}", *numbers]
        else:
            cells += [""] * 6
        lines.append(f"| {' | '.join(cells)} |")
    counted = [each for each in beyond if each.cells]
    total = float(np.average([each.held for each in counted], weights=[len(each.trials) for each in counted]))
    return [*lines, "", f"All of them together: {total:.1%}."]


def _not_found(finding: Finding) -> list[str]:
    """Every variant and rate at which a run was not found or a false one was, and ordinary driving that passed."""
    return [
        *(
            f"- {each.variant}, {each.rate_hz:g} Hz: {each.found} of {each.driven} runs found, {each.false} false."
            for each in finding.amiss
        ),
        *(
            f"- {each.complete} of {each.listed} pulls and stops of ordinary driving at {each.rate_hz:g} Hz pass for "
            "complete runs."
            for each in finding.traffic
            if each.complete
        ),
    ]


def _found(finding: Finding) -> list[str]:
    """A row for each variant, with what was found of it at every rate; below it the hours of ordinary driving."""
    rates_hz = list(dict.fromkeys(each.rate_hz for each in finding.runs))
    rows = [
        "Starts, roll-ons and stops that were found and listed as complete, of all that were driven, and how many",
        "complete ones were listed that were not driven.",
        "",
        f"| what | driven | {' | '.join(f'{rate_hz:g} Hz' for rate_hz in rates_hz)} | false |",
        "| --- | ---: |" + " ---: |" * (len(rates_hz) + 1),
    ]
    for variant in dict.fromkeys(each.variant for each in finding.runs):
        of_variant = [each for each in finding.runs if each.variant == variant]
        counts = [of_variant[0].driven, *(each.found for each in of_variant), sum(each.false for each in of_variant)]
        rows.append(f"| {variant} | {' | '.join(map(str, counts))} |")
    return [
        *rows,
        "",
        *(
            f"In {each.hours:g} hours of ordinary driving at {each.rate_hz:g} Hz (lights, queues, joins, overtakes, "
            f"firm stops) {each.listed} pulls and stops are listed, {each.complete} of them as complete runs."
            for each in finding.traffic
        ),
    ]


def _table(run: Run) -> list[str]:
    rows = [
        "| measure | runs | RMS | bias | u95 | held | interpolation RMS | bound | target |",
        "| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: | ---: |",
    ]
    return [*rows, *(_row(run, quantity, summary) for quantity, summary in _summaries(run))]


def _row(run: Run, quantity: Quantity, summary: Summary) -> str:
    target = TARGETS.get(quantity.key)
    limit = _shown(quantity, target.limit) if target and target.limit and run.setting.rate_hz == 25 else ""
    wanted = _shown(quantity, target.rms * run.allowed) if target and run.allowed else ""
    plain = "" if np.isnan(summary.interpolated_rms) else _shown(quantity, summary.interpolated_rms)
    values = [_shown(quantity, value) for value in (summary.rms, summary.bias, summary.u95)]
    cells = [_name(quantity), str(summary.count), *values, f"{summary.covered:.1%}", plain, limit, wanted]
    return f"| {' | '.join(cells)} |"


def _ramps(run: Run) -> list[str]:
    """Bias of 0-60 mph from first movement for every shape and range of durations."""
    found = by_ramp(run.trials, FIRST_MOVEMENT)
    rows = [
        f"Mean error of 0-60 mph from first movement, {run.title}.",
        "",
        "| shape | " + " | ".join(f"{low:g}-{high:g} s" for low, high in RAMPS_S) + " |",
        "| --- |" + " ---: |" * len(RAMPS_S),
    ]
    for shape in SHAPES:
        biases = [found.get((shape, ramps_s)) for ramps_s in RAMPS_S]
        rows.append(f"| {shape} | " + " | ".join("" if b is None else _shown(FIRST_MOVEMENT, b) for b in biases) + " |")
    return rows


def _name(quantity: Quantity) -> str:
    fields = {
        "time_s": quantity.clock.replace("_", " ") if quantity.clock != "speed" else "time",
        "line_speed_mps": "line speed",
        "trap_speed_mps": "trap speed",
        "distance_m": "through nominal",
        "onset_distance_m": "from brake onset",
    }
    return f"{quantity.measure}, {fields[quantity.field]}"


def _shown(quantity: Quantity, value: float) -> str:
    unit, factor = UNITS.get(quantity.field, METERS)
    scaled = value * factor
    return f"{scaled:.{1 if abs(scaled) < 100 else 0}f} {unit}"


def chart_svg(run: Run) -> bytes:
    """How often errors are within a multiple of the stated u95, against what a normal distribution says."""
    import matplotlib

    matplotlib.use("svg")
    from matplotlib import pyplot
    from scipy import stats

    figure, axes = pyplot.subplots(figsize=(7.5, 4.2))
    multiples = np.linspace(0, 2, 81)
    for number, quantity in enumerate(QUANTITIES):
        rows = np.array([trial.errors[quantity.key][:2] for trial in run.trials if quantity.key in trial.errors])
        if len(rows) >= LEAST_TRIALS:
            within = [np.mean(np.abs(rows[:, 0]) <= m * rows[:, 1]) for m in multiples]
            style = ("-", "--", ":", "-.")[number % 4]
            axes.plot(multiples, within, style, linewidth=1.1, label=_name(quantity))
    expected = 2 * stats.norm.cdf(1.959964 * multiples) - 1
    axes.plot(multiples, expected, color="black", linewidth=2.2, label="a normal distribution")
    axes.set_xlabel("error as a multiple of the stated u95")
    axes.set_ylabel("share of runs within")
    axes.grid(linestyle=":", linewidth=0.6)
    axes.legend(fontsize=7, loc="lower right")
    figure.tight_layout()
    out = io.BytesIO()
    figure.savefig(out, format="svg", metadata={"Date": None})
    pyplot.close(figure)
    return out.getvalue()
