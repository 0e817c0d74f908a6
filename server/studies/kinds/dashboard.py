"""Dashboard speed: what the car's indicated speed truly is, from CAN data beside the receiver's."""

from __future__ import annotations

import numpy as np

from coombe_core.studies.dashboard import Dashboard, dashboard
from coombe_core.studies.problem import StudyError
from coombe_core.units import KMH_MPS, MPH_MPS
from coombe_core.wording.studies import as_indicated_sentence, dashboard_sentence, problem
from runs.peaks import can_data_of, curves_of
from studies.choosing import Chosen, Picked
from studies.kinds.values import named
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Point, Shown, Table

SPEED = Axis("true speed", "speed", "m/s")
INDICATED = "indicated_speed_mps"
EVERY_S = 0.5
STEADY_MPS2 = 6.0  # above that the dashboard's delay shows more than its error
ASKED_MPS = (50 * KMH_MPS, 60 * MPH_MPS, 100 * KMH_MPS, 130 * KMH_MPS)


def dashboards(chosen: Chosen) -> Shown:
    """Indicated against true speed along runs with CAN data of it."""
    names = [rule.name for rule in chosen.asked.rules]
    sentences, series, rows, refused = [], [], [], []
    for place, rule in enumerate(chosen.asked.rules):
        pairs = _pairs(chosen.counting(place))
        try:
            found = dashboard([pair[0] for pair in pairs], [pair[1] for pair in pairs])
        except StudyError as error:
            refused.append(
                f"{rule.name}: {problem(error, 'study of the dashboard')} CAN data need the dashboard's speed."
            )
            continue
        sentences.append(named(names, place, dashboard_sentence(found, 100 * KMH_MPS)))
        sentences.append(named(names, place, as_indicated_sentence(found, 60 * MPH_MPS)))
        points = [Point(indicated, true, None, run) for indicated, true, run in pairs]
        ends = [min(pair[0] for pair in pairs), max(pair[0] for pair in pairs)]
        trues = [found.true_mps(end) for end in ends]
        band = Band(ends, [value.value for value in trues], [value.u95 for value in trues])
        series.append(ChartSeries(rule.name, points, band))
        rows += _rows(rule.name, found)
    if not series:
        raise ValueError(" ".join(refused))
    indicated = Axis("indicated speed", "speed", "m/s")
    chart = Chart("True speed against indicated", indicated, SPEED, series)
    table = Table("What an indicated speed truly is", [Axis("series"), indicated, SPEED], rows)
    return Shown(sentences, [chart], [table], [*chosen.cautions, *refused])


def _rows(name: str, found: Dashboard) -> list[list[Cell]]:
    return [[name, asked, found.true_mps(asked)] for asked in ASKED_MPS]


def _pairs(runs: list[Picked]) -> list[tuple[float, float, int]]:
    """Indicated and true speed every half second, where speed does not change too fast, with the run."""
    numbers = [picked.run for picked in runs]
    curves = curves_of(numbers)
    pairs = []
    for run, channels in can_data_of(numbers).items():
        if INDICATED not in channels or run not in curves:
            continue
        curve = curves[run]
        at_s = np.arange(0.0, curve.since_s[-1], EVERY_S)
        indicated = np.interp(at_s, channels["since_s"], channels[INDICATED])
        steady = np.abs(np.interp(at_s, curve.since_s, curve.acceleration_mps2)) < STEADY_MPS2
        true = np.interp(at_s, curve.since_s, curve.speed_mps)
        kept = steady & np.isfinite(indicated) & (true > 3.0)
        pairs += [(float(i), float(t), run) for i, t in zip(indicated[kept], true[kept], strict=True)]
    return pairs
