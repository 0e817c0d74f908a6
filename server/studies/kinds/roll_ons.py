"""Pulls from steady speeds: how long from the instant of full power and from the speed, and who is ahead when."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from coombe_core.curve import Curve
from coombe_core.studies.problem import StudyError
from coombe_core.studies.roll_ons import from_full_power, gap_m, response_delay_s
from coombe_core.uncertainty import Value
from coombe_core.wording.studies import gap_sentence, problem, roll_ons_sentence
from runs.peaks import can_data_of, curves_of
from studies.choosing import Chosen, Picked
from studies.kinds.values import axis_of, named, point
from studies.showing import Axis, Band, Cell, Chart, ChartSeries, Shown, Table

PEDAL = "accelerator_percent"
CAR_LENGTH_M = 4.7  # of a usual car, for gaps in car lengths


@dataclass(frozen=True)
class Pulls:
    """The pulls of a series with their curves, whose zero is full power."""

    name: str
    runs: list[Picked]
    curves: list[Curve]
    from_full_power: Value
    between: Value


def roll_ons(chosen: Chosen) -> Shown:
    """An interval by car, from full power and from its speed; gaps between the first car and every other."""
    measure, y = chosen.asked.measure, axis_of(chosen)
    found: list[Pulls] = []
    refused: list[str] = []
    for place, rule in enumerate(chosen.asked.rules):
        runs = chosen.counting(place)
        curves = curves_of([picked.run for picked in runs])
        kept = [curves[picked.run.pk] for picked in runs]
        try:
            whole = from_full_power(kept, measure.to_mps)
            found.append(Pulls(rule.name, runs, kept, whole, from_full_power(kept, measure.to_mps, measure.from_mps)))
        except StudyError as error:
            refused.append(f"{rule.name}: {problem(error, 'roll-on set')}")
    if not found:
        raise ValueError(" ".join(refused))
    names = [pulls.name for pulls in found]
    each = [roll_ons_sentence(measure.name, pulls.from_full_power, pulls.between) for pulls in found]
    sentences = [named(names, place, sentence) for place, sentence in enumerate(each)]
    gaps = [(pulls.name, *gap_m(found[0].curves, pulls.curves, measure.to_mps)) for pulls in found[1:]]
    sentences += [
        gap_sentence(found[0].name, name, float(at_s[-1]), float(ahead_m[-1]), CAR_LENGTH_M)
        for name, at_s, ahead_m in gaps
    ]
    rows: list[list[Cell]] = [
        [pulls.name, float(len(pulls.runs)), pulls.between, pulls.from_full_power, _delay(pulls.runs)]
        for pulls in found
    ]
    columns = [
        *(Axis("car"), Axis("pulls"), y, Axis("from full power", "time", "s")),
        Axis("from pedal to full power", "time", "s"),
    ]
    times = [
        ChartSeries(pulls.name, [point(place, picked) for picked in pulls.runs]) for place, pulls in enumerate(found)
    ]
    charts = [Chart(f"{y.label} by car", Axis("car"), y, times, names), _speeds(found)]
    if gaps:
        bands = [ChartSeries(name, (), Band(at_s.tolist(), ahead_m.round(2).tolist())) for name, at_s, ahead_m in gaps]
        since = Axis("since full power", "time", "s")
        charts.append(Chart(f"How far {names[0]} is ahead", since, Axis("ahead", "distance", "m"), bands))
    return Shown(sentences, charts, [Table("Pulls", columns, rows)], [*chosen.cautions, *refused])


def _speeds(found: list[Pulls]) -> Chart:
    """A pull of every car, that of its middle time."""
    series = []
    for pulls in found:
        times = [picked.value.value if picked.value else 0.0 for picked in pulls.runs]
        curve = pulls.curves[int(np.argsort(times)[len(times) // 2])]
        series.append(
            ChartSeries(pulls.name, (), Band(curve.since_s.round(3).tolist(), curve.speed_mps.round(3).tolist()))
        )
    return Chart("Speed of a usual pull", Axis("since full power", "time", "s"), Axis("speed", "speed", "m/s"), series)


def _delay(runs: list[Picked]) -> Cell:
    """From the pedal on CAN to full power, in the mean; where no pull has CAN data of it, words."""
    channels = can_data_of([picked.run for picked in runs]).values()
    found = [response_delay_s(each["since_s"], each[PEDAL]) for each in channels if PEDAL in each]
    delays = [delay for delay in found if delay is not None]
    return float(np.mean(delays)) if delays else "no pedal in CAN data"
