"""Energy: what pulls take out of the battery and stops put back, from CAN data, with charge beside it."""

from __future__ import annotations

from coombe_core.studies.energy import Energy, energy
from coombe_core.studies.problem import StudyError
from coombe_core.wording.studies import energy_sentence, problem
from runs.models import RunKind
from runs.peaks import Floats, battery_power_w, can_data_of
from studies.choosing import Chosen, Picked
from studies.kinds.values import named
from studies.showing import Axis, Cell, Chart, ChartSeries, Point, Shown, Table

WH, WH_PER_MILE = Axis("energy", "plain", "Wh"), Axis("a mile", "plain", "Wh/mile")


def energies(chosen: Chosen) -> Shown:
    """The energy of every run that has CAN data of voltage and current, or of power."""
    names = [rule.name for rule in chosen.asked.rules]
    sentences, series, rows, refused = [], [], [], []
    for place, rule in enumerate(chosen.asked.rules):
        points: list[Point] = []
        runs = chosen.counting(place)
        channels = can_data_of([picked.run for picked in runs])
        last: Energy | None = None
        for picked in runs:
            try:
                found = _energy(picked, channels.get(picked.run.pk, {}), rule.car.battery_kwh)
            except StudyError as error:
                refused.append(f"Run {picked.run.pk}: {problem(error, 'study of energy')}")
                continue
            if found is None:
                continue
            last = found
            points.append(Point(len(points) + 1, found.energy_wh.value, found.energy_wh.u95, picked.run.pk))
            agree = "" if found.agree is None else "yes" if found.agree else "no"
            cells: list[Cell] = [
                rule.name,
                f"{picked.run.start_local:%Y-%m-%d %H:%M}",
                found.energy_wh,
                found.wh_per_mile,
            ]
            rows.append([*cells, found.from_charge_wh or "not noted", agree])
        if last is None:
            refused.append(f"{rule.name}: no run has CAN data of voltage and current. Import the CAN log with the log.")
            continue
        sentences.append(named(names, place, f"The latest run: {energy_sentence(last)}"))
        series.append(ChartSeries(rule.name, points))
    if not series:
        raise ValueError(" ".join(refused))
    columns = [Axis("series"), Axis("run"), WH, WH_PER_MILE, Axis("by charge", "plain", "Wh"), Axis("they agree")]
    chart = Chart("Energy, run by run", Axis("run"), WH, series)
    return Shown(sentences, [chart], [Table("Energy", columns, rows)], [*chosen.cautions, *refused])


def _energy(picked: Picked, channels: dict[str, Floats], battery_kwh: float | None) -> Energy | None:
    """None without CAN data of power. Raises StudyError where it makes no sense."""
    power_w = battery_power_w(channels)
    run, value = picked.run, picked.value
    row = next((row for row in picked.stored.measures if value), None)
    if power_w is None or value is None or row is None:
        return None
    stop = run.kind == RunKind.STOP
    ends_s = row.time_s.value if row.time_s else 0.0
    distance_m = row.distance_m or row.onset_distance_m
    if distance_m is None or ends_s <= 0:
        return None
    inside = (channels["since_s"] >= 0.0) & (channels["since_s"] <= ends_s)
    before, after = run.charge_before_percent, run.charge_after_percent
    charge = None if before is None or after is None or before == after else (before, after)
    capacity_wh = battery_kwh * 1000.0 if battery_kwh else None
    return energy(channels["since_s"][inside], power_w[inside], distance_m.value, not stop, charge, capacity_wh)
