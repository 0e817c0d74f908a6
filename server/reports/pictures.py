"""The pictures of a report: SVG whose lines differ in shape and dash as well as in shade, and cards as PNG."""

from __future__ import annotations

import base64
import io
from collections.abc import Mapping, Sequence
from typing import Any

import matplotlib as mpl
import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from reports.units import Unit, unit_of

mpl.rcParams.update(
    {
        "svg.fonttype": "none",  # text stays text
        "svg.hashsalt": "coombe",  # the same picture gives the same bytes
        "font.family": ["DejaVu Sans"],
        "font.size": 9,
        "axes.spines.top": False,
        "axes.spines.right": False,
        "text.parse_math": False,  # a dollar in a title is a dollar
    }
)
INK, QUIET, ACCENT, PAPER = "#1d2733", "#5b6673", "#0b5c6b", "#ffffff"
STYLES = (("o", "-"), ("s", "--"), ("^", "-."), ("D", ":"), ("v", (0, (5, 1))), ("P", (0, (1, 1))))  # by group
WIDTH_IN = 8.4
CARD_IN, CARD_DPI = (12.0, 6.3), 100  # 1200 x 630 dots


def svg(figure: Figure) -> str:
    """A figure as an address that holds it, for an image."""
    out = io.BytesIO()
    figure.savefig(out, format="svg", bbox_inches="tight", metadata={"Date": None, "Creator": None})
    return "data:image/svg+xml;base64," + base64.b64encode(out.getvalue()).decode()


def interval(pairs: Sequence[Mapping[str, Any]], unit: str) -> Figure:
    """Differences with their intervals about zero, one below the other; in the unit that is named."""
    figure = Figure(figsize=(WIDTH_IN, 0.55 + 0.35 * len(pairs)))
    _draw_intervals(figure.subplots(), pairs, unit)
    return figure


def _draw_intervals(axes: Axes, pairs: Sequence[Mapping[str, Any]], unit: str) -> None:
    axes.axvline(0.0, color=INK, linewidth=1.2)
    for place, pair in enumerate(pairs):
        low, middle, high = (pair[name] for name in ("low95", "value", "high95"))
        axes.plot([low, high], [-place, -place], color=ACCENT, linewidth=4, solid_capstyle="butt")
        axes.plot([middle], [-place], "o", color=INK, markersize=7)
    reach = 1.2 * max(abs(pair[name]) for pair in pairs for name in ("low95", "high95"))
    axes.set_xlim(-reach, reach)
    axes.set_ylim(-len(pairs) + 0.4, 0.6)
    axes.set_yticks([-place for place in range(len(pairs))], [pair["name"] for pair in pairs])
    axes.spines["left"].set_visible(False)
    axes.tick_params(axis="y", length=0)
    axes.set_xlabel(f"difference, {unit}", color=QUIET)


def strip(groups: Sequence[tuple[str, Sequence[float]]], unit: Unit, what: str) -> Figure:
    """Every value that counts, a row a group, with the mean of each."""
    figure = Figure(figsize=(WIDTH_IN, 0.6 + 0.35 * len(groups)))
    axes = figure.subplots()
    for place, (_, values) in enumerate(groups):
        shown = np.array([unit.of(value) for value in values])
        marker = STYLES[place % len(STYLES)][0]
        axes.plot(shown, np.full(shown.size, -place), marker, color=ACCENT, alpha=0.75, markersize=6)
        if shown.size:
            axes.plot([shown.mean()] * 2, [-place - 0.32, -place + 0.32], color=INK, linewidth=2)
    axes.set_ylim(-len(groups) + 0.4, 0.6)
    axes.set_yticks([-place for place in range(len(groups))], [name for name, _ in groups])
    axes.set_xlabel(f"{what}, {unit.name}", color=QUIET)
    return figure


def curves(names: Sequence[str], drawn: Sequence[Mapping[str, Any]], family: str) -> Figure | None:
    """Every group's mean speed against time with its 95 % band; None where no group has traces."""
    if not any(each["x"] for each in drawn):
        return None
    speed = unit_of("speed", family)
    figure = Figure(figsize=(WIDTH_IN, 3.0))
    axes = figure.subplots()
    for place, (name, each) in enumerate(zip(names, drawn, strict=True)):
        if not each["x"]:
            continue
        mean = np.array(each["mean"]) / speed.factor
        axes.plot(each["x"], mean, linestyle=STYLES[place % len(STYLES)][1], color=INK, linewidth=1.4, label=name)
        if each["low95"] and each["high95"]:
            low, high = (np.array(each[end]) / speed.factor for end in ("low95", "high95"))
            axes.fill_between(each["x"], low, high, color=ACCENT, alpha=0.2, linewidth=0)
    axes.set_xlabel("time, s", color=QUIET)
    axes.set_ylabel(f"speed, {speed.name}", color=QUIET)
    axes.legend(frameon=False)
    return figure


def study(chart: Mapping[str, Any], family: str) -> Figure:
    """A picture of a study: points with their intervals, curves with their bands, marks."""
    x, y = (unit_of(chart[axis]["kind"], family) for axis in ("x", "y"))
    figure = Figure(figsize=(WIDTH_IN, 3.0))
    axes = figure.subplots()
    for place, series in enumerate(chart["series"]):
        marker, dash = STYLES[place % len(STYLES)]
        points = series["points"]
        if points:
            halves = [(point["u95"] or 0.0) / y.factor for point in points]
            at, found = [x.of(point["x"]) for point in points], [y.of(point["y"]) for point in points]
            axes.errorbar(at, found, halves, fmt=marker, color=INK, ecolor=QUIET, elinewidth=1, markersize=5)
            axes.lines[-1].set_label(series["name"])
        if band := series["band"]:
            at, curve = [x.of(each) for each in band["x"]], np.array([y.of(each) for each in band["y"]])
            axes.plot(at, curve, linestyle=dash, color=ACCENT, linewidth=1.4, label="" if points else series["name"])
            if band["u95"]:
                half = np.array(band["u95"]) / y.factor
                axes.fill_between(at, curve - half, curve + half, color=ACCENT, alpha=0.18, linewidth=0)
        for mark in series["marks"]:
            axes.axvspan(x.of(mark["low"]), x.of(mark["high"]), color=QUIET, alpha=0.18, linewidth=0)
            axes.axvline(x.of(mark["x"]), color=QUIET, linestyle=dash, linewidth=1, label=mark["label"])
    axes.set_xlabel(_named(chart["x"], x), color=QUIET)
    axes.set_ylabel(_named(chart["y"], y), color=QUIET)
    if chart["names"]:
        axes.set_xticks(range(len(chart["names"])), chart["names"])
    if chart["falling"]:
        axes.invert_xaxis()
    if len(chart["series"]) > 1 or any(series["marks"] for series in chart["series"]):
        axes.legend(frameon=False, fontsize=8)
    return figure


def _named(axis: Mapping[str, Any], unit: Unit) -> str:
    name = unit.name or axis["unit"]
    return f"{axis['label']}, {name}" if name else str(axis["label"])


def card(title: str, answer: str, word: str, foot: str, pair: Mapping[str, Any] | None, unit: str) -> bytes:
    """A picture of 1200 by 630 dots, as PNG: what was asked, the answer, its interval, and whose it is."""
    figure = Figure(figsize=CARD_IN, dpi=CARD_DPI, facecolor=PAPER)
    figure.text(0.06, 0.88, _cut(title, 52), fontsize=26, color=INK, va="top")
    figure.text(0.06, 0.68, answer, fontsize=58 if len(answer) < 22 else 42, color=INK, va="top", weight="bold")
    figure.text(0.06, 0.45, _cut(word, 60), fontsize=28, color=ACCENT, va="top")
    if pair:
        axes = figure.add_axes((0.06, 0.2, 0.88, 0.13))
        _draw_intervals(axes, [{**pair, "name": ""}], unit)
        axes.set_xlabel("")
        axes.tick_params(labelsize=15)
    figure.text(0.06, 0.05, _cut(foot, 95), fontsize=15, color=QUIET)
    out = io.BytesIO()
    figure.savefig(out, format="png", metadata={"Software": None})
    return out.getvalue()


def _cut(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
