"""`coombe analyse`, `coombe compare` and `coombe simulate`: the core without a server."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from coombe_core.formats import ReadError
from coombe_core.timing.clocks import CLOCKS
from coombe_core.timing.measures import Measure, parse_measure

if TYPE_CHECKING:
    from coombe_core.analysis import AnalyzedRun
    from coombe_core.cli.run_table import Row
    from coombe_core.comparing.comparison import Group
    from coombe_core.comparing.state import State
    from coombe_core.formats.can_log import CanLog
    from coombe_core.formats.weather import WeatherReport
    from coombe_core.physics.course import SurveyedCourse
    from coombe_core.trace import Trace

QUANTITIES = ("time", "distance", "line_speed", "trap_speed", "peak_power")
LOG_SUFFIXES = (".nmea", ".gpx", ".csv")
FAILED = 2


def main(arguments: Sequence[str] | None = None, out: TextIO = sys.stdout, err: TextIO = sys.stderr) -> int:
    """Carry out one command line and return its exit code; a bad log gets a sentence, never a traceback."""
    options = _parser().parse_args(arguments)
    act: Callable[[argparse.Namespace, TextIO, TextIO], int] = options.act
    try:
        return act(options, out, err)
    except BrokenPipeError:
        return FAILED


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="coombe", description="Times and comparisons from receiver logs.")
    commands = parser.add_subparsers(required=True)
    _add_analyse(commands)
    _add_compare(commands)
    _add_simulate(commands)
    return parser


def _add_analyse(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    analyse = commands.add_parser("analyse", help="find and time the runs of logs")
    analyse.add_argument("logs", nargs="+", metavar="LOG")
    analyse.add_argument("--json", action="store_true", help="one JSON object a line, one line a log")
    analyse.add_argument("--measure", action="append", default=[], type=_measure, metavar='"60-90 mph"')
    analyse.add_argument("--slope-percent", type=float, help="the course's surveyed slope, positive uphill")
    analyse.add_argument(
        "--slope-profile", type=Path, metavar="CSV", help="the course's elevations: distance_m,elevation_m"
    )
    analyse.add_argument(
        "--correct-to",
        action="append",
        default=[],
        choices=["level", "standard-air", "calm"],
        help="give corrected times beside the uncorrected ones; may be given more than once",
    )
    analyse.add_argument("--metar", default="", metavar='"METAR …"', help="the weather report of the day")
    analyse.add_argument(
        "--elevation", type=float, default=0.0, metavar="M", help="elevation of the course, for --metar"
    )
    analyse.add_argument("--mass", type=float, help="test mass in kg, for wheel power")
    analyse.add_argument("--cda", type=float, help="drag area in square meters, for wheel power")
    analyse.add_argument("--can-log", type=Path, metavar="LOG", help="a CAN log of the same drive")
    analyse.add_argument("--dbc", type=Path, help="what decodes it; Coombe's own where none is given")
    analyse.set_defaults(act=_analyse)


def _add_compare(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    compare = commands.add_parser("compare", help="compare two groups of one measure")
    compare.add_argument("--json", action="store_true")
    compare.add_argument("--measure", required=True, type=_measure)
    compare.add_argument("--clock", required=True, choices=CLOCKS)
    compare.add_argument("--quantity", choices=QUANTITIES, default="time")
    for group in ("before", "after"):
        either = compare.add_mutually_exclusive_group()
        either.add_argument(f"--{group}", nargs="+", metavar="LOG", default=[])
        either.add_argument(f"--{group}-values", type=_values, metavar="3.91,3.94")
    compare.add_argument("--runs", type=Path, metavar="TABLE.csv", help="a row a log, with its group and conditions")
    compare.add_argument(
        "--one-day", action="store_true", help="all values were taken on one day, in this order, Before first"
    )
    compare.set_defaults(act=_compare)


def _add_simulate(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    simulate = commands.add_parser("simulate", help="write a log of the simulated car, its truth beside it")
    simulate.add_argument("--scenario", required=True)
    simulate.add_argument("--out", required=True, type=Path, metavar="LOG")
    simulate.add_argument("--seed", type=int, default=1)
    simulate.add_argument("--rate", type=float, default=25.0, help="fixes a second")
    simulate.set_defaults(act=_simulate)


def _measure(name: str) -> Measure:
    try:
        return parse_measure(name)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from None


def _values(text: str) -> list[float]:
    try:
        return [float(part) for part in text.split(",")]
    except ValueError:
        raise argparse.ArgumentTypeError(f"not a list of numbers: {text[:40]!r}") from None


def _analyse(options: argparse.Namespace, out: TextIO, err: TextIO) -> int:
    from coombe_core.analysis import Request, analyse_log
    from coombe_core.cli.output import analysis_json, analysis_table
    from coombe_core.cli.process_pool import in_processes
    from coombe_core.formats.weather import read_metar
    from coombe_core.physics.air import Air
    from coombe_core.physics.road_load import RoadLoad
    from coombe_core.timing.corrections import Correction

    load = RoadLoad.of(options.mass, options.cda) if options.mass else None
    wanted = set(options.correct_to)
    try:
        report = read_metar(options.metar) if options.metar else None
        _check_corrections(wanted, report, load is not None)
    except ValueError as error:
        _tell("--metar" if options.metar else "--correct-to", error, options.json, out, err)
        return FAILED
    air = Air.of_report(report, options.elevation) if report else Air()
    correction = Correction("level" in wanted, "standard-air" in wanted, "calm" in wanted, air, road_load=load)
    path = options.slope_profile
    try:
        surveyed = _surveyed(options.slope_percent, path)
        path = options.can_log
        request = Request(options.measure, surveyed, correction, can_log=_can_log(path, options.dbc))
    except (ValueError, OSError) as error:
        _tell(str(path), error, options.json, out, err)
        return FAILED
    code = 0
    for path in options.logs:
        try:
            with Path(path).open("rb") as log:
                analysis = analyse_log(log, request, in_processes)
        except (ReadError, OSError) as error:
            code = FAILED
            _tell(path, error, options.json, out, err)
            continue
        shown = json.dumps(analysis_json(path, analysis)) if options.json else analysis_table(path, analysis)
        print(shown, file=out)
    return code


def _check_corrections(wanted: set[str], report: WeatherReport | None, has_mass: bool) -> None:
    """Raise ValueError where a correction was asked for that can't be made: nothing is left out in silence."""
    for name in sorted(wanted - {"level"}):
        if not has_mass:
            raise ValueError(f"correcting to {name} needs the car's mass: give --mass")
        if report is None:
            raise ValueError(f"correcting to {name} needs the weather: give --metar")
    if "standard-air" in wanted and report and not report.has_density:
        raise ValueError("correcting to standard-air needs a METAR with temperature and pressure")
    if "calm" in wanted and report and (report.wind_mps is None or report.wind_from_deg is None):
        raise ValueError("correcting to calm needs a METAR with wind speed and direction")


def _surveyed(slope_percent: float | None, profile: Path | None) -> SurveyedCourse | None:
    if slope_percent is None and profile is None:
        return None
    from coombe_core.physics.course import Profile, SurveyedCourse
    from coombe_core.uncertainty import Value

    heights = Profile.of_csv(profile.read_text(errors="replace")) if profile else None
    return SurveyedCourse(Value(slope_percent or 0.0, 0.0), profile=heights)


def _can_log(path: Path | None, dbc: Path | None) -> CanLog | None:
    if path is None:
        return None
    from coombe_core.formats.can_log import read_can_log

    with path.open("rb") as log:
        return read_can_log(log, dbc.read_text(errors="replace") if dbc else None)


def _tell(path: str, error: Exception, as_json: bool, out: TextIO, err: TextIO) -> None:
    reason = (error.strerror or str(error)) if isinstance(error, OSError) else str(error)
    if as_json:
        print(json.dumps({"schema": "coombe.error/1", "path": path, "error": reason}), file=out)
    print(f"{path}: {reason}", file=err)


def _compare(options: argparse.Namespace, out: TextIO, err: TextIO) -> int:
    from coombe_core.cli.output import comparison_json
    from coombe_core.cli.run_table import RunTableError
    from coombe_core.comparing.comparison import UnusableValueError
    from coombe_core.comparing.groups import NoSuchQuantityError
    from coombe_core.comparing.verdict import compare
    from coombe_core.wording.comparison import reasons_of, sentence_of

    try:
        before, after = _groups(options)
    except (ReadError, NoSuchQuantityError, UnusableValueError, RunTableError) as error:
        print(error, file=err)
        return FAILED
    result = compare(options.measure, options.clock, before, after, options.quantity)
    print(
        json.dumps(comparison_json(result)) if options.json else "\n".join([sentence_of(result), *reasons_of(result)]),
        file=out,
    )
    return 0


def _groups(options: argparse.Namespace) -> list[Group]:
    """The two groups, from logs, from typed values or from a run table."""
    from coombe_core.cli.run_table import Row, RunTableError, before_and_after, read_run_table
    from coombe_core.comparing.groups import group_of_runs, shared_quantity

    measure, clock = options.measure, options.clock
    given = [(options.before, options.before_values), (options.after, options.after_values)]
    rows: list[list[Row]] = []
    if options.runs:
        if any(logs or values for logs, values in given):
            raise RunTableError("give either --runs or the two groups, not both")
        rows = list(before_and_after(options.runs, read_run_table(options.runs)))
    elif not all(logs or values for logs, values in given):
        raise RunTableError("give --before or --before-values and --after or --after-values, or --runs")
    else:
        rows = [[Row(0, Path(log), {}, {}) for log in logs] for logs, _ in given]
    runs = [_runs(of_group, measure) for of_group in rows]
    states = _noted(*runs)
    if options.quantity == "peak_power":
        return [_powers(found, noted) for found, noted in zip(runs, states, strict=True)]
    typed = _typed(options.before_values, options.after_values, options.one_day)
    field = shared_quantity(options.quantity, [run.timed for group in runs for run in group], measure, clock)
    return [
        made or group_of_runs([run.timed for run in found], measure, clock, field, states=noted)
        for made, found, noted in zip(typed, runs, states, strict=True)
    ]


def _powers(runs: Sequence[LogRun], states: Sequence[State]) -> Group:
    """A group of peak powers at the wheels, in kW."""
    from coombe_core.comparing.comparison import Group
    from coombe_core.comparing.groups import NoSuchQuantityError

    lacking = next((run for run in runs if "mass_kg" not in run.row.numbers), None)
    if not runs or lacking:
        where = f"line {lacking.row.line}" if lacking and lacking.row.line else "the run table"
        raise NoSuchQuantityError(f"peak_power needs the car's mass: give mass_kg in {where}")
    known = [(run.timed.wheel_power, state) for run, state in zip(runs, states, strict=True)]
    return Group(
        [power.peak_w / 1000 for power, _ in known if power],
        states=[state for power, state in known if power],
    )


def _typed(before: list[float] | None, after: list[float] | None, one_day: bool) -> list[Group | None]:
    """Groups of typed values; of one day they were driven in the order in which they stand."""
    from coombe_core.comparing.comparison import Group
    from coombe_core.comparing.state import State

    made: list[Group | None] = []
    driven = 0
    for values in (before, after):
        states = [State(day="one day", hour=float(driven + place)) for place in range(len(values or ()))]
        driven += len(states)
        made.append(Group(values, states=states if one_day else ()) if values else None)
    return made


@dataclass(frozen=True)
class LogRun:
    """A run of a log and the table's row for it, its UTC day and hour, its heading and the receiver's rate."""

    timed: AnalyzedRun
    row: Row
    day: str
    hour: float
    heading_deg: float | None
    rate_hz: float


def _noted(*groups: Sequence[LogRun]) -> list[list[State]]:
    """What logs and their rows tell of the runs of all groups."""
    from coombe_core.physics.course import directions_of

    directions = iter(directions_of([run.heading_deg for group in groups for run in group]))
    return [[_state(run, next(directions)) for run in group] for group in groups]


def _state(run: LogRun, direction: str) -> State:
    from coombe_core.comparing.state import State

    slope = run.timed.slope_percent
    of_log = State(
        day=run.day,
        hour=run.hour,
        direction=direction,
        rate_hz=run.rate_hz,
        slope_percent=slope.value if slope else None,
    )
    return run.row.state(of_log, run.heading_deg)


def _runs(rows: Sequence[Row], measure: Measure) -> list[LogRun]:
    """Every complete run of the logs that no flag voids. Raises ReadError with the path of a log that fails."""
    from coombe_core.analysis import Request, analyse_log
    from coombe_core.cli.process_pool import in_processes
    from coombe_core.physics.road_load import RoadLoad
    from coombe_core.timing.corrections import Correction

    runs: list[LogRun] = []
    for row in rows:
        mass_kg = row.numbers.get("mass_kg")
        load = RoadLoad.of(mass_kg, None) if mass_kg else None
        request = Request([measure], _surveyed(row.numbers.get("slope_percent"), None), Correction(road_load=load))
        try:
            with row.log.open("rb") as log:
                analysis = analyse_log(log, request, in_processes)
        except OSError as error:
            raise ReadError(f"{row.log}: {error.strerror}") from None
        except ReadError as error:
            raise ReadError(f"{row.log}: {error}") from None
        runs.extend(_log_run(run, row, analysis.reading.trace) for run in analysis.runs if run.counts(measure))
    return runs


def _log_run(run: AnalyzedRun, row: Row, trace: Trace) -> LogRun:
    from coombe_core.comparing.state import hour_of
    from coombe_core.physics.course import mean_heading_deg

    at = trace.utc_at(run.start_s)
    heading = mean_heading_deg(trace.between(run.start_s, run.end_s))
    return LogRun(run, row, f"{at:%Y-%m-%d}", hour_of(at), heading, round(trace.rate_hz, 1))


def _simulate(options: argparse.Namespace, out: TextIO, err: TextIO) -> int:
    from dataclasses import replace

    from coombe_core.formats import write_log
    from coombe_core.simulating.scenarios import SCENARIOS, simulate, truth

    if options.scenario not in SCENARIOS:
        print(f"no scenario {options.scenario!r}; there are: {', '.join(SCENARIOS)}", file=err)
        return FAILED
    if options.out.suffix not in LOG_SUFFIXES:
        print(f"{options.out}: name the log {' or '.join('*' + suffix for suffix in LOG_SUFFIXES)}", file=err)
        return FAILED
    scenario = SCENARIOS[options.scenario]
    simulated = simulate(replace(scenario, receiver=replace(scenario.receiver, rate_hz=options.rate)), options.seed)
    beside = options.out.with_name(options.out.name + ".truth.json")
    options.out.write_bytes(write_log(simulated.trace, options.out.suffix[1:]))
    beside.write_text(json.dumps(truth(simulated), indent=1) + "\n")
    print(f"{options.out}: {len(simulated.trace)} fixes of {scenario.about}; truth in {beside}", file=out)
    return 0


if __name__ == "__main__":
    sys.exit(main())
