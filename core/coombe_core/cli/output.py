"""Analyses as the command's JSON (schema coombe.analysis/1) and as text."""

from __future__ import annotations

from datetime import datetime

from coombe_core import __version__
from coombe_core.analysis import Analysis, AnalyzedRun
from coombe_core.flags.flag import Flag
from coombe_core.physics.wheel_power import WheelPower
from coombe_core.timing.results import QUANTITIES, Measured
from coombe_core.timing.splits import Split
from coombe_core.trace import Trace
from coombe_core.uncertainty import Value
from coombe_core.wording.corrections import uncorrected_reason
from coombe_core.wording.flags import message_of
from coombe_core.wording.untimed import untimed_reason

Json = dict[str, object]
KINDS = {"standing": "standing start", "rolling": "roll-on", "stop": "stop"}
REFERENCES = {"slope": "level", "air density": "standard air", "wind": "calm"}


def analysis_json(path: str, analysis: Analysis) -> Json:
    """One line of `coombe analyse --json`."""
    trace = analysis.reading.trace
    source = {
        "format": analysis.reading.format,
        "sha256": analysis.sha256,
        "fixes": len(trace),
        "rejected": analysis.reading.rejections.total,
        "rate_hz": round(trace.rate_hz, 3),
        "start_utc": _utc(trace.start_utc),
        "duration_s": round(trace.duration_s, 3),
    }
    runs = [_run_json(run, trace) for run in analysis.runs]
    report: Json = {"schema": "coombe.analysis/1", "core_version": __version__, "path": path, "source": source}
    if analysis.can_data:
        report["can"] = {
            "format": analysis.can_data.log.format,
            "offset_s": _value(analysis.can_data.offset_s),
            "over_reading": round(analysis.can_data.over_reading, 4),
        }
    untimed = [
        {"kind": each.kind, "start_s": round(each.start_s, 2), "reason": untimed_reason(each)}
        for each in analysis.untimed
    ]
    return report | {"runs": runs, "untimed": untimed}


def _utc(moment: datetime) -> str:
    return moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")


def _value(value: Value | None) -> Json | None:
    return None if value is None else {"value": round(value.value, 5), "u95": round(value.u95, 5)}


def _flag_json(flag: Flag) -> Json:
    return {
        "code": flag.code,
        "severity": flag.severity,
        "message": message_of(flag),
        "excludes": flag.excludes,
        "at_s": flag.at_s,
    }


def _run_json(run: AnalyzedRun, trace: Trace) -> Json:
    return {
        "kind": run.kind,
        "start_utc": _utc(trace.utc_at(run.start_s)),
        "start_s": round(run.start_s, 4),
        "complete": run.complete,
        "flags": [_flag_json(flag) for flag in run.flags],
        "slope_percent": _value(run.slope_percent),
        "peak_acceleration_g": _value(run.peak_acceleration_g),
        "mean_acceleration_g": _value(run.mean_acceleration_g),
        "rollout_s": _value(run.rollout_s),
        "measures": [_measured_json(row) for row in run.measures],
        "splits": [_split_json(split) for split in run.splits],
        "corrected": list(run.corrected_parts),
        "uncorrected_because": uncorrected_reason(run),
        "wheel_power": run.wheel_power and _power_json(run.wheel_power),
    }


def _power_json(power: WheelPower) -> Json:
    """Peak power in kW first, then in the horsepower that each school means, and what was assumed."""
    return {
        "peak_kw": round(power.peak_w / 1000, 1),
        "peak_metric_hp": round(power.peak_metric_hp, 1),
        "peak_mechanical_hp": round(power.peak_mechanical_hp, 1),
        "peak_at_mps": round(power.peak_at_mps, 2),
        "tapers_from_mps": power.tapers_from_mps and round(power.tapers_from_mps, 2),
        "assumed": list(power.assumed),
    }


def _measured_json(row: Measured) -> Json:
    values = {name: _value(getattr(row, name)) for name in QUANTITIES}
    always = ("time_s", "corrected_time_s")
    return {"name": row.name, "clock": row.clock} | {n: v for n, v in values.items() if v is not None or n in always}


def _split_json(split: Split) -> Json:
    times = {"first_movement_s": _value(split.first_movement_s), "rollout_s": _value(split.rollout_s)}
    return {"speed": split.speed, "unit": split.unit, **times, "distance_m": _value(split.distance_m)}


def analysis_table(path: str, analysis: Analysis) -> str:
    """What a person reads of one log."""
    reading = analysis.reading
    head = f"{path}: {reading.format.upper()}, {len(reading.trace)} fixes at {reading.trace.rate_hz:g} Hz"
    if reading.rejections:
        first = reading.rejections[0]
        head += f", {reading.rejections.total} lines rejected (line {first.line}: {first.reason})"
    lines = [head]
    if not analysis.runs:
        lines.append("  no standing start and no stop in this log")
    for number, run in enumerate(analysis.runs, 1):
        lines.extend(_run_lines(number, run))
    for each in analysis.untimed:
        lines.append(f"  found, not timed: {KINDS[each.kind]} at {each.start_s:.2f} s: {untimed_reason(each)}")
    return "\n".join(lines)


def _run_lines(number: int, run: AnalyzedRun) -> list[str]:
    state = "" if run.complete else ", not complete"
    lines = [f"  run {number}: {KINDS[run.kind]} at {run.start_s:.2f} s{state}"]
    lines += [f"    {flag.severity}: {message_of(flag)}" for flag in run.flags]
    if run.uncorrected_because:
        lines.append(f"    not corrected: {uncorrected_reason(run)}")
    for row in run.measures:
        if row.time_s:
            lines.append(
                f"    {row.name:12s} {row.clock.replace('_', ' '):15s} {_shown(row.time_s, 's', 3)}{_extra(row, run)}"
            )
        elif row.onset_distance_m:
            lines.append(f"    {row.name:12s} {'from brake onset':15s} {_shown(row.onset_distance_m, 'm', 2)}")
    if power := run.wheel_power:
        lines.append(
            f"    wheel power  {power.peak_w / 1000:.0f} kW ({power.peak_metric_hp:.0f} metric hp, "
            f"{power.peak_mechanical_hp:.0f} mechanical hp) at {power.peak_at_mps:.1f} m/s"
            + (f"; assumed: {', '.join(power.assumed)}" if power.assumed else "")
        )
    return lines


def _extra(row: Measured, run: AnalyzedRun) -> str:
    to = ", ".join(REFERENCES[part] for part in run.corrected_parts)
    corrected = (row.corrected_time_s, f"s corrected to {to}", 3)
    parts = [(row.distance_m, "m", 2), (row.line_speed_mps, "m/s at the line", 2), corrected]
    return "".join(f"   {_shown(value, unit, digits)}" for value, unit, digits in parts if value)


def _shown(value: Value, unit: str, digits: int) -> str:
    return f"{value.value:8.{digits}f} ± {value.u95:.{digits}f} {unit}"
