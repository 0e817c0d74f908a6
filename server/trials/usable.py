"""How Coombe feels with many runs of many cars: pages in a browser, then lists and comparisons with many at once."""

from __future__ import annotations

import json
import random
import threading
import time
from collections.abc import Iterator

import numpy as np

from accounts.models import Role, User
from comparisons.models import Comparison
from comparisons.models import Group as ComparedGroup
from trials.asking import Asker
from trials.pace import Pace, fill
from trials.pages import pages
from trials.served import Web

CARS = 20
PEOPLE, EACH, THINKS_S = 20, 25, 3.0  # at once; what each asks; how long each looks at an answer, in the mean
WORKERS = 2
LIST_S, COMPARISON_S, LARGE_S = 0.060, 0.150, 0.600
AT_ONCE = 3.0  # times as long as one alone may wait
REPEATS = 40
WARMING = 4 * WORKERS  # until each worker has very likely answered it once


def usable(count: int) -> Iterator[Pace]:
    """Fill an empty database with runs of twenty cars, and time pages, then requests, alone and with many people."""
    person = User.objects.create_user("pace", password=None, role=Role.TESTER)
    groups = fill(count, person, CARS, others=0)
    comparison = Comparison.objects.create(title="Pace", measure="0-60 mph", clock="rollout", created_by=person)
    for position, runs in enumerate(groups):
        named = ComparedGroup.objects.create(
            comparison=comparison, position=position, name=("before", "after")[position]
        )
        named.runs.set(runs[:50])
    yield from pages()
    yield from _answers(groups)


def _answers(groups: list[list[int]]) -> Iterator[Pace]:
    asked = _asked(groups)
    web = Web(workers=WORKERS)
    try:
        for what, (method, path, body, limit_s) in asked.items():
            taken = [_ask(web.asker, method, path, body) for _ in range(WARMING + REPEATS)][WARMING:]
            yield _pace(what, taken, limit_s)
        taken_by: dict[str, list[float]] = {what: [] for what in asked}
        people = [threading.Thread(target=_person, args=(web, asked, taken_by, seed)) for seed in range(PEOPLE)]
        for each in people:
            each.start()
        for each in people:
            each.join()
        for what, taken in taken_by.items():
            yield _pace(f"{what}, {PEOPLE} people at once", taken, AT_ONCE * asked[what][3])
    finally:
        web.stop()


def _asked(groups: list[list[int]]) -> dict[str, tuple[str, str, bytes | None, float]]:
    """What is asked: method, address, body and limit (s)."""

    def compare(size: int) -> bytes:
        named = [{"name": name, "runs": runs[:size]} for name, runs in zip(("before", "after"), groups, strict=True)]
        return json.dumps({"measure": "0-60 mph", "clock": "rollout", "groups": named}).encode()

    lists = ("runs/?page_size=50", "cars/", "comparisons/", "studies/", "plans/", "logs/", "all-cars/", "home/")
    return {
        **{path.split("?")[0].rstrip("/"): ("GET", f"/api/v1/{path}", None, LIST_S) for path in lists},
        "compare 2 x 50": ("POST", "/api/v1/comparisons/preview/", compare(50), COMPARISON_S),
        "compare 2 x 500": ("POST", "/api/v1/comparisons/preview/", compare(500), LARGE_S),
    }


def _ask(asker: Asker, method: str, path: str, body: bytes | None) -> float:
    begun = time.perf_counter()
    status, answer = asker.ask(method, path, body)
    if status != 200:
        raise RuntimeError(f"{path}: {status}: {answer[:200]!r}")
    return time.perf_counter() - begun


def _person(
    web: Web,
    asked: dict[str, tuple[str, str, bytes | None, float]],
    taken_by: dict[str, list[float]],
    seed: int,
) -> None:
    """Somebody who asks for one thing, looks at it for a while, and asks for the next; mostly lists."""
    draw = random.Random(seed)
    names = list(asked)
    for _ in range(EACH):
        time.sleep(draw.expovariate(1 / THINKS_S))
        what = draw.choice(names)
        method, path, body, _ = asked[what]
        taken_by[what].append(_ask(web.asker, method, path, body))


def _pace(what: str, taken: list[float], limit_s: float) -> Pace:
    seen = np.array(taken)
    return Pace(what, float(np.median(seen)), float(np.quantile(seen, 0.95)), limit_s)
