"""The commands of `coombe` that need no server: analyse, compare, study, simulate and verify."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, TextIO

from coombe_core.formats import ReadError
from coombe_core.timing.clocks import CLOCKS
from coombe_core.timing.measures import Measure, parse_measure

if TYPE_CHECKING:
    from coombe_core.formats.can_log import CanLog
    from coombe_core.formats.weather import WeatherReport
    from coombe_core.physics.course import SurveyedCourse

QUANTITIES = ("time", "distance", "line_speed", "trap_speed", "peak_power")
STUDIES = ("sweep", "braking", "roll-ons", "repeatability", "receivers", "levels")
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
    _add_study(commands)
    _add_simulate(commands)
    _add_verify(commands)
    return parser


def _add_verify(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    verify = commands.add_parser("verify", help="time and compare a data package anew, and say what does not agree")
    verify.add_argument("package", type=Path, metavar="PACKAGE")
    verify.add_argument("--json", action="store_true", help="one JSON object a line, one line a thing checked")
    verify.set_defaults(act=_verify)


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


def _add_study(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    study = commands.add_parser("study", help="study the runs of a table: how a measure holds up")
    study.add_argument("kind", choices=STUDIES)
    study.add_argument("--runs", required=True, type=Path, metavar="TABLE.csv", help="a row a log, with its conditions")
    study.add_argument("--json", action="store_true")
    study.add_argument("--measure", type=_measure, help="the usual one of the study where it is not given")
    study.add_argument("--clock", choices=CLOCKS)
    study.set_defaults(act=_study)


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
        surveyed = surveyed_by(options.slope_percent, path)
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


def surveyed_by(slope_percent: float | None, profile: Path | None) -> SurveyedCourse | None:
    """The course of a stated slope or of a file with its elevations."""
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
    from coombe_core.cli.compared import Compared
    from coombe_core.cli.comparison_output import comparison_json
    from coombe_core.cli.run_table import RunTableError
    from coombe_core.comparing.comparison import Asked, UnusableValueError
    from coombe_core.comparing.groups import NoSuchQuantityError
    from coombe_core.comparing.verdict import compare
    from coombe_core.wording.comparison import reasons_of, sentence_of

    try:
        compared = Compared.of(options)
    except (ReadError, NoSuchQuantityError, UnusableValueError, RunTableError) as error:
        print(error, file=err)
        return FAILED
    (before, after), known = compared.groups, compared.known()
    result = compare(options.measure, options.clock, before, after, options.quantity, known)
    asked = Asked(adjust=compared.adjustable(known))
    adjusted = compare(options.measure, options.clock, before, after, options.quantity, known, asked)
    if options.json:
        print(json.dumps(comparison_json(result, adjusted)), file=out)
    else:
        print("\n".join([sentence_of(result), *reasons_of(result)]), file=out)
        if adjusted.adjusted:
            print(f"Adjusted: {sentence_of(adjusted)}", file=out)
    return 0


def _study(options: argparse.Namespace, out: TextIO, err: TextIO) -> int:
    from coombe_core.cli.run_table import RunTableError
    from coombe_core.cli.study import USUAL_MEASURES, study_json
    from coombe_core.comparing.groups import NoSuchQuantityError

    options.measure = options.measure or parse_measure(USUAL_MEASURES[options.kind])
    try:
        found = study_json(options.kind, options)
    except (ReadError, NoSuchQuantityError, RunTableError) as error:
        print(error, file=err)
        return FAILED
    print(json.dumps(found) if options.json else found["sentence"], file=out)
    return 0


def _verify(options: argparse.Namespace, out: TextIO, err: TextIO) -> int:
    from coombe_core.cli.verified import verified

    return verified(options.package, options.json, out, err)


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
