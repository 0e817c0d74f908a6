"""`coombe bench`: how long each step takes, as ratios to reference libraries in one run, since machines are noisy."""

from __future__ import annotations

import argparse
import io
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import timedelta
from pathlib import Path

from coombe_core.analysis import Request, time_runs
from coombe_core.comparing.comparison import Group
from coombe_core.comparing.verdict import compare
from coombe_core.detection.runs import RunFinder, find_runs
from coombe_core.formats import read_log, write_log
from coombe_core.simulating.drive import Act
from coombe_core.simulating.scenarios import TRAFFIC, Scenario, clean_run, simulate
from coombe_core.timing.measures import parse_measure
from coombe_core.trace import Trace

USUAL_LAUNCHES, MANY_LAUNCHES = 10, 120  # of an hour, each with a stop
REPEATS = 3
LARGE_BYTES = 1024**3
PART_S = 300.0
# What a process does that only parses every sentence with the usual per-sentence library and reads no field.
REFERENCE = """
import sys, pynmea2
for line in open(sys.argv[1]):
    pynmea2.parse(line)
"""
ANALYSE = [sys.executable, "-m", "coombe_core.cli.command", "analyse", "--json"]
LOOP = "of that loop"
PULL_AND_STOP_S, TRAFFIC_S = 25.3, 54.4  # about
Row = tuple[str, float, str, float | None]


def main(arguments: list[str] | None = None) -> int:
    """Measure and print the table."""
    parser = argparse.ArgumentParser(prog="coombe bench", description="Times as ratios to reference libraries.")
    parser.add_argument("--large", action="store_true", help="also the memory that a log of 1 GB takes (minutes)")
    options = parser.parse_args(arguments)
    with tempfile.TemporaryDirectory() as folder:
        log, many, one = (Path(folder) / name for name in ("hour.nmea", "many.nmea", "run.nmea"))
        hour = an_hour(USUAL_LAUNCHES)
        log.write_bytes(write_log(hour, "nmea"))
        many.write_bytes(write_log(an_hour(MANY_LAUNCHES), "nmea"))
        one.write_bytes(write_log(simulate(Scenario("", clean_run()), 5).trace, "nmea"))
        rows = [*_whole(log, many, one), *_steps(log), *_formats(hour.between(0.0, PART_S))]
        if options.large:
            rows.append(_memory(hour, Path(folder) / "large.nmea"))
    print(table(rows))
    return 0


def an_hour(launches: int) -> Trace:
    """About an hour at 25 Hz: quarter miles with a stop after each, and traffic and waiting between them."""
    between_s = 3600.0 / launches - PULL_AND_STOP_S
    rounds = int(between_s / 2 / TRAFFIC_S)
    acts = [
        act
        for _ in range(launches)
        for act in (*TRAFFIC * rounds, *clean_run(), Act("rest", between_s - rounds * TRAFFIC_S))
    ]
    return simulate(Scenario("", acts), 3).trace


def _whole(log: Path, many: Path, one: Path) -> list[Row]:
    """Whole processes: the start of Python and every import counts."""
    commands = [[sys.executable, "-c", REFERENCE, str(log)], [*ANALYSE, str(log)], [*ANALYSE, str(many)]]
    reference, ours, of_many = _interleaved(*commands)
    single = min(_seconds(lambda: _run([*ANALYSE, str(one)])) for _ in range(REPEATS))
    about = f"{log.stat().st_size / 1e6:.0f} MB"
    return [
        (f"loop of the per-sentence library over an hour ({about}), no field read", reference, "", None),
        (f"analyse the hour, {2 * USUAL_LAUNCHES} runs and stops, whole process", ours, LOOP, ours / reference),
        (f"an hour of {2 * MANY_LAUNCHES} runs and stops", of_many, LOOP, of_many / reference),
        ("analyse one run, whole process", single, "", None),
    ]


def _formats(part: Trace) -> list[Row]:
    """Other formats against their libraries, which parse the same bytes."""
    import gpxpy
    from pyubx2 import UBXReader

    of_library: dict[str, Callable[[bytes], object]] = {
        "ubx": lambda data: [message for _, message in UBXReader(io.BytesIO(data))],
        "gpx": gpxpy.parse,
    }
    rows: list[Row] = []
    for name, parse in of_library.items():
        data = write_log(part, name)
        theirs = min(_seconds(lambda data=data, parse=parse: parse(data)) for _ in range(REPEATS))  # type: ignore[misc]
        ours = min(_seconds(lambda data=data: read_log(data)) for _ in range(REPEATS))  # type: ignore[misc]
        rows.append((f"read {PART_S / 60:.0f} minutes of {name.upper()}", ours, "of its library", ours / theirs))
    return rows


def _steps(log: Path) -> list[Row]:
    data = log.read_bytes()
    trace = read_log(data).trace
    by_library = _seconds(lambda: _looped(data))
    reading = min(_seconds(lambda: read_log(data)) for _ in range(REPEATS))
    finding = min(_seconds(lambda: find_runs(trace)) for _ in range(REPEATS))
    timing = min(_seconds(lambda: time_runs(trace, Request())) for _ in range(REPEATS)) - finding
    found = len(find_runs(trace))
    a_fix = _seconds(lambda: _streamed(trace)) / len(trace)
    measure, groups = (
        parse_measure("0-60 mph"),
        (Group([3.9, 3.95, 3.92, 3.97, 3.9]), Group([3.7, 3.75, 3.72, 3.69, 3.8])),
    )
    comparing = min(_seconds(lambda: compare(measure, "rollout", *groups)) for _ in range(REPEATS))
    return [
        ("read the hour", reading, "of the loop in the same process", reading / by_library),
        ("find runs in the hour", finding, "of reading it", finding / reading),
        (f"time a run (mean of {found})", timing / found, "of reading the hour", timing / found / reading),
        ("find runs as a stream, a fix", a_fix, "of 1 ms", a_fix / 1e-3),
        ("compare two groups of five", comparing, "", None),
    ]


def _memory(hour: Trace, large: Path) -> Row:
    """The most memory that analyzing a log of 1 GB takes, in gigabytes: the same drive hour after hour."""
    with large.open("wb") as out:
        while out.tell() < LARGE_BYTES:
            out.write(write_log(hour, "nmea"))
            hour = replace(hour, start_utc=hour.start_utc + timedelta(seconds=hour.duration_s + 1.0))
    _run([*ANALYSE, str(large)])
    peak_gb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024 / 1e9
    return (f"memory for a log of {large.stat().st_size / 1e9:.2f} GB, in GB", peak_gb, "of 1.5 GB", peak_gb / 1.5)


def _interleaved(*commands: list[str]) -> list[float]:
    """The least time of each command, taken in turn so that a slow moment of the machine meets all of them."""
    times: list[list[float]] = [[] for _ in commands]
    for _ in range(REPEATS):
        for command, taken in zip(commands, times, strict=True):
            taken.append(_seconds(lambda command=command: _run(command)))  # type: ignore[misc]
    return [min(taken) for taken in times]


def _run(command: list[str]) -> None:
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, env=os.environ)


def _looped(data: bytes) -> None:
    import pynmea2

    for line in io.StringIO(data.decode()):
        pynmea2.parse(line)


def _streamed(trace: Trace) -> None:
    finder = RunFinder()
    for elapsed_s, speed_mps in zip(trace.elapsed_s.tolist(), trace.speed_mps.tolist(), strict=True):
        for _ in finder.feed(elapsed_s, speed_mps):
            pass


def _seconds(act: Callable[[], object]) -> float:
    begun = time.perf_counter()
    act()
    return time.perf_counter() - begun


def table(rows: list[Row]) -> str:
    """The rows in Markdown: what, how long, and how that compares."""
    lines = ["| what | s | ratio |", "| --- | ---: | --- |"]
    for name, value, to, ratio in rows:
        shown = f"{value:.2g}" if value < 0.01 else f"{value:.3f}"
        lines.append(f"| {name} | {shown} | {'' if ratio is None else f'{ratio:.2f} {to}'} |")
    return "\n".join(lines)


if __name__ == "__main__":
    sys.exit(main())
