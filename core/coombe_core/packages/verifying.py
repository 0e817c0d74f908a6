"""Working a package out again from its logs, and saying line by line whether the published numbers come out."""

from __future__ import annotations

import hashlib
import io
import json
import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from coombe_core.analysis import AnalyzedRun, Request, analyse_log
from coombe_core.formats import ReadError
from coombe_core.formats.can_log import CanLog, read_can_log
from coombe_core.formats.reading import CanError
from coombe_core.packages.inputs import compared_again
from coombe_core.packages.package import Package, Row
from coombe_core.packages.reading import Opened
from coombe_core.physics.course import Profile, SurveyedCourse
from coombe_core.timing.measures import STANDARD_MEASURES, Measure, parse_measure
from coombe_core.timing.results import QUANTITIES
from coombe_core.uncertainty import Value

SAME_RUN_S = 1.0
ROUNDED = 0.0005  # of a second, a meter or a meter a second
ROUNDED_SHARE = 0.02  # and of u95: a run is timed from the fixes near it, here from the whole log
Outcome = Literal["agrees", "differs", "not checked"]
OK: Outcome = "agrees"
DIFFERS: Outcome = "differs"
UNKNOWN: Outcome = "not checked"


@dataclass(frozen=True)
class Checked:
    """One thing that was checked: what it is, what came out, and the numbers where they differ."""

    what: str
    outcome: Outcome
    detail: str = ""


def verify(opened: Opened) -> Iterator[Checked]:
    """Check files against their hashes, time every run of the logs anew, and compare anew.

    Parameters
    ----------
    opened : Opened

    Yields
    ------
    Checked
        Files first, then run by run, then the verdicts.
    """
    package = opened.package
    for path, why in opened.damaged.items():
        yield Checked(path, DIFFERS, why)
    if not opened.damaged:
        yield Checked(f"{len(package.files)} files", OK, "all as described")
    for log in package.tables["logs"]:
        yield from _log(package, log)
    for inputs in package.inputs:
        yield _pair(inputs)


def _log(package: Package, log: Row) -> Iterator[Checked]:
    name, runs = str(log["name"]), [run for run in package.tables["runs"] if run["log"] == log["sha256"]]
    data = package.files.get(str(log["file"]))
    if data is None:
        yield Checked(f"{name}: {len(runs)} runs", UNKNOWN, "the log is not in the package")
        return
    if hashlib.sha256(data).hexdigest() != log["sha256"]:
        yield Checked(name, DIFFERS, "these are not the bytes that its runs were timed from")
    try:
        found = _timed(package, log, data, runs)
    except (ReadError, CanError) as error:
        yield Checked(name, DIFFERS, f"it can't be read: {error}")
        return
    measures: dict[object, list[Row]] = defaultdict(list)
    for row in package.tables["measures"]:
        measures[row["run"]].append(row)
    for run in runs:
        yield _run(name, run, found[run["run"]], measures[run["run"]])


def _timed(package: Package, log: Row, data: bytes, runs: Sequence[Row]) -> dict[object, AnalyzedRun | None]:
    """The run of the log that each published run is; runs that share course and receiver are timed at once."""
    layout = json.loads(str(log["layout"])) if log["layout"] else None
    can_data = package.files.get(str(log["can_file"]))
    can_log = read_can_log(io.BytesIO(can_data), None) if can_data else None
    named = _named(package, runs)
    alike: dict[tuple[object, ...], list[Row]] = defaultdict(list)
    for run in runs:
        alike[run["course"], run["smoothing_s"], run["smoothing_u95_s"]].append(run)
    found: dict[object, AnalyzedRun | None] = {}
    for (course, smoothing_s, u95_s), rows in alike.items():
        request = _request(package, course, smoothing_s, u95_s, named, layout, can_log)
        timed = analyse_log(data, request).runs
        for row in rows:
            found[row["run"]] = _nearest(row, timed)
    return found


def _nearest(row: Row, timed: Sequence[AnalyzedRun]) -> AnalyzedRun | None:
    start_s = float(row["start_s"] or 0.0)
    same = [run for run in timed if run.kind == row["kind"] and abs(run.start_s - start_s) < SAME_RUN_S]
    return min(same, key=lambda run: abs(run.start_s - start_s), default=None)


def _named(package: Package, runs: Sequence[Row]) -> list[Measure]:
    """The measures beyond the standard ones that were published of these runs."""
    standard, numbers = {measure.name for measure in STANDARD_MEASURES}, {run["run"] for run in runs}
    names = {str(row["name"]) for row in package.tables["measures"] if row["run"] in numbers}
    return [parse_measure(name) for name in sorted(names - standard)]


def _request(
    package: Package,
    course: object,
    smoothing_s: object,
    u95_s: object,
    named: Sequence[Measure],
    layout: Mapping[str, str] | None,
    can_log: CanLog | None,
) -> Request:
    row = next((each for each in package.tables["courses"] if each["course"] == course), None)
    surveyed = None
    if row and row["slope_percent"] is not None:
        stations = [
            (float(each["distance_m"] or 0.0), float(each["elevation_m"] or 0.0))
            for each in package.tables["stations"]
            if each["course"] == course
        ]
        slope = Value(float(row["slope_percent"]), float(row["slope_u95_percent"] or 0.0))
        heading = row["heading_deg"]
        profile = Profile.of(stations) if len(stations) > 1 else None
        surveyed = SurveyedCourse(slope, None if heading is None else float(heading), profile)
    known = isinstance(smoothing_s, float)
    smoothing = Value(smoothing_s, u95_s if isinstance(u95_s, float) else 0.0) if known else None  # type: ignore[arg-type]
    return Request(named, surveyed, can_log=can_log, layout=layout, smoothing_s=smoothing)


def _run(log: str, row: Row, timed: AnalyzedRun | None, published: Sequence[Row]) -> Checked:
    what = f"{log}, {row['kind']} at {float(row['start_s'] or 0.0):.1f} s"
    if timed is None:
        return Checked(what, DIFFERS, "this log holds no such run")
    values: dict[tuple[object, ...], Value] = {}
    for measured in timed.measures:
        for quantity in QUANTITIES:
            if value := getattr(measured, quantity):
                values[measured.name, measured.clock, quantity] = value
    checked = [each for each in published if each["quantity"] != "corrected_time_s"]  # rests on the air of the day
    wrong = [each for each in checked if not _agrees(each, values.get((each["name"], each["clock"], each["quantity"])))]
    if not wrong:
        return Checked(what, OK, f"{len(checked)} numbers")
    first = wrong[0]
    now = values.get((first["name"], first["clock"], first["quantity"]))
    came = "nothing" if now is None else f"{now.value:.4f} ± {now.u95:.4f}"
    detail = f"{len(wrong)} of {len(checked)} numbers; {first['name']} ({first['clock']}), {first['quantity']}: "
    return Checked(what, DIFFERS, f"{detail}published {first['value']:.4f} ± {first['u95']:.4f}, came out {came}")


def _agrees(row: Row, now: Value | None) -> bool:
    if now is None or row["value"] is None or row["u95"] is None:
        return False
    within = max(ROUNDED, ROUNDED_SHARE * now.u95)
    return abs(float(row["value"]) - now.value) <= within and abs(float(row["u95"]) - now.u95) <= within


def _pair(inputs: Mapping[str, Any]) -> Checked:
    try:
        before, after = (str(group["name"]) for group in inputs["groups"])
        what = f"{after or 'after'} against {before or 'before'}, {inputs['measure']}"
        stated, again = inputs["found"], compared_again(inputs)
    except (ValueError, KeyError, TypeError, IndexError) as error:
        return Checked("the comparison", DIFFERS, f"its inputs are none that can be compared ({error})")
    found = again.difference
    now = (found.value, found.low95, found.high95) if found else (None, None, None)
    same = all(_close(stated[name], value) for name, value in zip(("value", "low95", "high95"), now, strict=True))
    word = stated["verdict"] if stated.get("several_p") is not None else again.verdict
    if same and word == stated["verdict"]:
        return Checked(what, OK, str(stated["verdict"]))
    came = "nothing" if found is None else f"{found.value:+.4f}, {found.low95:+.4f} to {found.high95:+.4f}"
    published = f"published {stated['verdict']}, {_number(stated['value'])}"
    return Checked(what, DIFFERS, f"{published}; came out {again.verdict}, {came}")


def _close(stated: object, now: float | None) -> bool:
    if now is None or not isinstance(stated, int | float):
        return now is None and stated is None
    return math.isclose(float(stated), now, rel_tol=1e-6, abs_tol=ROUNDED / 10)


def _number(stated: object) -> str:
    return f"{stated:+.4f}" if isinstance(stated, int | float) else "nothing"
