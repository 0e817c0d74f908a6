"""Every setup of every car in one table: measures as mean with interval, best and count, beside what is fitted."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any

from django.db.models import Avg, Count, F, Max, Min, StdDev, Sum

from cars.models import ManufacturerClaim, Setup
from coombe_core.timing.measures import parse_measure
from runs.models import Measured, Run, Severity, Validity
from runs.passes import SEEN, Seen, seen_twice
from studies.models import OwnValue

USUAL = (
    *("0-60 mph|rollout", "0-60 mph|first_movement", "0-100 km/h|first_movement", "1/4 mile|rollout", "60 ft|rollout"),
    *("60-130 mph|speed", "30-70 mph|speed", "60-0 mph|speed", "100-0 km/h|speed"),
)
SETUP_FIELDS = (
    *("id", "name", "since", "change", "software_version", "wheel_diameter_in", "wheel_mass_kg", "tire_season"),
    *("tire_size", "test_mass_kg", "car_id", "car__name", "car__maker", "car__model_year", "car__drive_layout"),
    *("car__body", "car__test_mass_kg", "car__power_kw", "car__battery_kwh"),
)


def version() -> tuple[object, ...]:
    """Changes with every write of what the table shows."""
    runs = Run.objects.aggregate(Count("id"), Sum("revision"), Max("timed_at"))
    setups = Setup.objects.aggregate(Count("id"), Sum("revision"), Sum("car__revision"))
    own = OwnValue.objects.aggregate(Count("id"), Sum("revision"), Sum("measure__revision"))
    claims = ManufacturerClaim.objects.aggregate(Count("id"), Sum("revision"))
    return tuple(value for found in (runs, setups, own, claims) for value in found.values())


@lru_cache(maxsize=16)
def rows_of(names: tuple[str, ...], at: tuple[object, ...]) -> list[dict[str, Any]]:
    """A row a setup, with its facts and the values of measures named as `measure|clock`; `at` is the version."""
    measured, own, claims = _measured(names), _own(), _claims()
    rows = []
    for setup in Setup.objects.order_by("car__name", "since", "id").values(*SETUP_FIELDS):
        mass_kg = setup["test_mass_kg"] or setup["car__test_mass_kg"]
        power_kw = setup["car__power_kw"]
        rows.append(
            {
                "setup": setup["id"],
                "setup_name": setup["name"],
                "car": setup["car_id"],
                "car_name": setup["car__name"],
                "maker": setup["car__maker"],
                "model_year": setup["car__model_year"],
                "drive_layout": setup["car__drive_layout"],
                "body": setup["car__body"],
                "software_version": setup["software_version"],
                "tires": f"{setup['tire_season']} {setup['tire_size']}".strip(),
                "wheel_diameter_in": setup["wheel_diameter_in"],
                "wheel_mass_kg": setup["wheel_mass_kg"],
                "test_mass_kg": mass_kg,
                "power_kw": power_kw,
                "mass_per_power_kg_per_kw": mass_kg / power_kw if mass_kg and power_kw else None,
                "battery_kwh": setup["car__battery_kwh"],
                "claims": claims.get(setup["car_id"], []),
                "values": measured.get(setup["id"], {}) | own.get(setup["id"], {}),
            }
        )
    _mark_alike(rows)
    return rows


def _measured(names: Sequence[str]) -> dict[int, dict[str, dict[str, Any]]]:
    """Mean with Student's interval, best and count of the runs of every setup that count, by measure and clock."""
    from scipy import stats

    counting = Run.objects.filter(validity=Validity.VALID, complete=True, log__date_known=True)
    proposed = Run.objects.filter(decided=False, flags__severity=Severity.VOID).values("pk")
    kept_out = Run.objects.filter(decided=False).exclude(flags__excludes="").filter(flags__isnull=False).values("pk")
    found: dict[int, dict[str, dict[str, Any]]] = defaultdict(dict)
    for name, clock in (each.split("|") for each in names):
        measure = parse_measure(name)
        stop = measure.basis == "stop"
        column = "distance_m" if stop else "time_s"
        rows = Measured.objects.filter(name=name, clock=clock, run__in=counting, **{f"{column}__isnull": False})
        rows = rows.exclude(run__in=proposed).exclude(run__in=_twice())
        if measure.from_rest:
            rows = rows.exclude(run__in=kept_out)
        numbers = (
            rows.order_by()
            .values(setup=F("run__setup_id"))
            .annotate(n=Count("id"), mean=Avg(column), sd=StdDev(column, sample=True), best=Min(column))
        )
        for row in numbers:
            n, sd = row["n"], row["sd"]
            u95 = float(stats.t.ppf(0.975, n - 1)) * sd / math.sqrt(n) if n > 1 and sd is not None else None
            kind = "distance" if stop else "time"
            shown = {
                "mean": row["mean"],
                "u95": u95,
                "best": row["best"],
                "n": n,
                "kind": kind,
                "unit": "m" if stop else "s",
            }
            found[row["setup"]][f"{name}|{clock}"] = shown | {"alike": False}
    return found


def _twice() -> list[int]:
    """Runs that another receiver's run stands for already."""
    near = Run.objects.exclude(receiver="").values("setup__car_id").annotate(names=Count("receiver", distinct=True))
    cars = [row["setup__car_id"] for row in near if row["names"] > 1]
    return list(seen_twice(Seen(*row) for row in Run.objects.filter(setup__car__in=cars).values_list(*SEEN)))


def _own() -> dict[int, dict[str, dict[str, Any]]]:
    """The means of own measures by setup."""
    rows = (
        OwnValue.objects.order_by()
        .values("setup_id", "measure_id", "measure__unit", "measure__better")
        .annotate(n=Count("id"), mean=Avg("value"), least=Min("value"), most=Max("value"))
    )
    found: dict[int, dict[str, dict[str, Any]]] = defaultdict(dict)
    for row in rows:
        best = row["most"] if row["measure__better"] == "more" else row["least"]
        shown = {
            "mean": row["mean"],
            "u95": None,
            "best": best,
            "n": row["n"],
            "kind": "plain",
            "unit": row["measure__unit"],
        }
        found[row["setup_id"]][f"own|{row['measure_id']}"] = shown | {"alike": False}
    return found


def _claims() -> dict[int, list[dict[str, Any]]]:
    found: dict[int, list[dict[str, Any]]] = defaultdict(list)
    for claim in ManufacturerClaim.objects.all():
        names = ("measure", "clock", "value_s", "source")
        found[claim.car_id].append({name: getattr(claim, name) for name in names})
    return found


def _mark_alike(rows: Iterable[dict[str, Any]]) -> None:
    """Mark means that several setups share to the last digit: copied, perhaps."""
    rows = list(rows)
    seen = Counter((key, value["mean"]) for row in rows for key, value in row["values"].items())
    for row in rows:
        for key, value in row["values"].items():
            value["alike"] = seen[key, value["mean"]] > 1
