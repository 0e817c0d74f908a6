"""How fast comparisons and lists answer with many runs in the database."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import timedelta
from itertools import cycle
from typing import Any

import numpy as np
from django.db import connection, models
from rest_framework.test import APIClient

from accounts.models import Role, User
from cars.models import Car, Setup
from config.garbage import look_seldom
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import Scenario, clean_run, simulate
from history.models import Action
from runs.models import Flag, Log, Measured, Run, RunTrace, Split
from runs.services import import_log

CANDIDATES = "/api/v1/comparisons/candidates/"
TEMPLATES, PER_GROUP = 4, 50
REPEATS, FEW = 40, 10
UNSEEN = 3  # first requests, which find nothing ready
CHANGED = 500
OTHER_CARS = 199  # beside the one that all runs are of
FEW_SETUPS = 6
MOST = 500  # of a group
RUNS_A_LOG = 10
NOTE = "copy of "


@dataclass(frozen=True)
class Pace:
    """One request: the median and the 95th percentile of its times (s), and what is asked for."""

    what: str
    median_s: float
    p95_s: float
    limit_s: float | None

    def __str__(self) -> str:
        asked = "" if self.limit_s is None else f"{self.p95_s / self.limit_s:.2f} of {1000 * self.limit_s:.0f} ms"
        return f"| {self.what} | {1000 * self.median_s:.0f} | {1000 * self.p95_s:.0f} | {asked} |"


def pace(count: int) -> Iterator[Pace]:
    """Fill an empty database with a number of runs of one car, and time what is asked of it most."""
    person = User.objects.create_user("pace", password=None, role=Role.TESTER)
    groups = fill(count, person)
    client = APIClient(SERVER_NAME="127.0.0.1")
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    look_seldom()  # as a web worker does
    yield from _paces(client, groups)


def fill(count: int, person: User, cars: int = 1, others: int = OTHER_CARS) -> list[list[int]]:
    """A number of runs on six setups over sixty days; gives the runs of two setups that have traces.

    The setups are those of one car, or of as many cars, each with six; `others` are cars without a run.
    """
    driven = [Car.objects.create(name=f"Pace {n}" if n else "Pace", test_mass_kg=1900) for n in range(cars)]
    setups = [Setup.objects.create(car=car, name=f"setup {n}", since="2026-01-01") for car in driven for n in range(6)]
    unused = Car.objects.bulk_create(Car(name=f"Other {n}", test_mass_kg=1900) for n in range(others))
    Setup.objects.bulk_create(Setup(car=other, name="as it is", since="2026-01-01") for other in unused)
    for seed in range(TEMPLATES):
        data = write_log(simulate(Scenario("", clean_run()), seed).trace, "nmea")
        import_log(f"{seed}.nmea", data, setups[0], person, {"charge_before_percent": 95, "battery_temp_before_c": 44})
    _copies(count, setups)
    for model in (Measured, Split, Flag):
        _with_the_rows_of(model)
    chosen = [list(Run.objects.filter(setup=s, notes__startswith=NOTE, kind="standing")[:MOST]) for s in setups[:2]]
    curves = dict(RunTrace.objects.values_list("run", "curve"))
    RunTrace.objects.bulk_create(
        RunTrace(run=run, fixes=b"", curve=curves[int(run.notes.removeprefix(NOTE))])
        for group in chosen
        for run in group
    )
    with connection.cursor() as cursor:  # a table that grew at once is not yet known to have grown
        cursor.execute("ANALYZE TABLE runs_run, runs_measured, runs_split, runs_flag, runs_runtrace")
    return [[run.pk for run in group] for group in chosen]


def _copies(count: int, setups: list[Setup]) -> None:
    draw = np.random.default_rng(1)
    templates = list(Run.objects.all())
    copied = [field.name for field in Run._meta.concrete_fields if field.name != "id"]
    logs = _logs(count // RUNS_A_LOG + 1)
    made = []
    for number in range(count):
        run = templates[number % len(templates)]
        copy = Run(**{name: getattr(run, name) for name in copied})
        copy.log, copy.setup = logs[number // RUNS_A_LOG], setups[_place(number, len(setups))]
        copy.start_utc = run.start_utc + timedelta(days=number % 60, minutes=5 * (number // 60 % 60))
        copy.start_s = 1e6 + number
        copy.charge_before_percent = float(round(draw.uniform(60, 96)))
        copy.notes = f"{NOTE}{run.pk}"
        made.append(copy)
    Run.objects.bulk_create(made, batch_size=1000)


def _logs(count: int) -> list[Log]:
    """Copies of a log, none of which has bytes."""
    first = Log.objects.earliest("pk")
    copied = {field.name: getattr(first, field.name) for field in Log._meta.concrete_fields if field.name != "id"}
    Log.objects.bulk_create(Log(**copied | {"name": f"copy {n}.nmea", "sha256": None}) for n in range(count))
    return list(Log.objects.filter(name__startswith="copy").order_by("pk"))


def _place(number: int, setups: int) -> int:
    """Which setup a run is of: each in turn, but two of many have a fifth of all runs each."""
    return number % 5 if setups > FEW_SETUPS and number % 5 < 2 else number % setups


def _with_the_rows_of(model: type[models.Model]) -> None:
    """Give every copy the rows that its template has, in one statement."""
    meta = model._meta
    columns = [field.column for field in meta.concrete_fields if field.column not in ("id", "run_id")]
    named, taken = ", ".join(f"`{name}`" for name in columns), ", ".join(f"t.`{name}`" for name in columns)
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO {meta.db_table} (run_id, {named}) SELECT r.id, {taken} FROM runs_run r "
            f"JOIN {meta.db_table} t ON t.run_id = CAST(SUBSTRING(r.notes, {len(NOTE) + 1}) AS UNSIGNED) "
            "WHERE r.notes LIKE %s",
            [f"{NOTE}%"],
        )
        if model is Measured:
            cursor.execute("UPDATE runs_measured SET time_s = time_s * (1 + 0.01 * (RAND(7) - 0.5))")


def _paces(client: APIClient, groups: list[list[int]]) -> Iterator[Pace]:
    draw = np.random.default_rng(2)

    def asked(**more: Any) -> dict[str, Any]:
        chosen = [[int(run) for run in draw.choice(group, PER_GROUP, replace=False)] for group in groups]
        named = [{"name": name, "runs": runs} for name, runs in zip(("before", "after"), chosen, strict=True)]
        return {"measure": "0-60 mph", "clock": "rollout", "groups": named, **more}

    def post(path: str, **more: Any) -> Callable[[], Any]:
        return lambda: client.post(f"/api/v1/comparisons/{path}/", asked(**more), format="json")

    adjusted = {"adjust": ["charge", "slope"]}
    yield _timed(f"compare 2 x {PER_GROUP} runs", post("preview"), 0.3)
    yield _timed(f"compare 2 x {PER_GROUP} runs, adjusted for charge and slope", post("preview", **adjusted), 0.3)
    yield _timed(f"compare 2 x {PER_GROUP} runs over a quarter mile", post("preview", measure="1/4 mile"), 0.3)
    yield _timed("curves, gaps and other measures of those", post("details"), None)
    yield from _listed(client)
    yield from _studied(client)
    chosen = [{"id": run} for run in Run.objects.order_by("id").values_list("id", flat=True)[:CHANGED]]
    values = cycle(range(30, 40))

    def change() -> Any:
        asked = {"runs": chosen, "changes": {"battery_temp_before_c": next(values)}, "apply": True}
        return client.post("/api/v1/runs/change-many/", asked, format="json")

    def undo() -> Any:
        return client.post(f"/api/v1/actions/{Action.objects.latest('id').pk}/undo/")

    yield _timed(f"change a condition of {CHANGED} runs at once", change, 2.0, FEW)
    yield _timed("undo that, and do it again", undo, 2.0, FEW)


def _listed(client: APIClient) -> Iterator[Pace]:
    """Lists of runs, and the pages that begin with one."""
    setup = Setup.objects.filter(car__name="Pace").latest("id").pk
    for what, query in (
        ("a page of 50 runs", "?page_size=50"),
        (
            "the same, filtered by setup and charge",
            f"?page_size=50&setup={setup}&charge_from=80&charge_to=90",
        ),
        ("the same, sorted by a measure", "?page_size=50&sort=0-60%20mph|rollout"),
        ("the same, of one day", "?page_size=50&day=2026-05-12"),
    ):
        yield _timed(what, lambda query=query: client.get(f"/api/v1/runs/{query}"), 0.1)  # type: ignore[misc]
    yield _timed("the cars", lambda: client.get("/api/v1/cars/"), 0.1)
    chosen: dict[str, Any] = {"measure": "0-60 mph", "clock": "rollout"}
    yield _timed("the runs that groups are chosen from", lambda: client.get(CANDIDATES, chosen), None)
    narrowed = {**chosen, "setup": setup, "charge_from": 80}
    yield _timed("the same, filtered by setup and charge", lambda: client.get(CANDIDATES, narrowed), None)
    yield _timed("the home page", lambda: client.get("/api/v1/home/"), 0.1)


def _studied(client: APIClient) -> Iterator[Pace]:
    """The table of all cars, the list of studies, and the study that reads most runs."""
    yield _timed("all cars in one table", lambda: client.get("/api/v1/all-cars/"), 0.1)
    yield _timed("the studies", lambda: client.get("/api/v1/studies/"), 0.1)
    series = [{"name": "setup 0", "car": Car.objects.get(name="Pace").pk, "setup": Setup.objects.earliest("id").pk}]
    history = {"kind": "history", "measure": "0-60 mph", "clock": "rollout", "series": series}
    yield _timed("a history of 500 runs", lambda: client.post("/api/v1/studies/preview/", history, "json"), None, FEW)


def _timed(what: str, act: Callable[[], Any], limit_s: float | None, repeats: int | None = None) -> Pace:
    """One request a few times unseen, then many times seen."""
    taken = []
    for number in range((repeats or REPEATS) + UNSEEN):
        begun = time.perf_counter()
        answer = act()
        taken.append(time.perf_counter() - begun)
        if answer.status_code not in (200, 201):
            raise RuntimeError(f"{what}: {answer.status_code}, request {number}: {answer.content[:200]!r}")
    seen = np.array(taken[UNSEEN:])
    return Pace(what, float(np.median(seen)), float(np.quantile(seen, 0.95)), limit_s)
