"""Changes of the largest table, of each kind that an upgrade makes, while others read and write."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from django.db import connection, models

from accounts.models import User
from runs.models import Run
from trials.pace import fill

LOOK_S = 0.02
LONGEST_WAIT_S = 10.0


@dataclass(frozen=True)
class Change:
    """How long a change took, and the longest that somebody who read and somebody who wrote waited meanwhile (s)."""

    what: str
    took_s: float
    read_s: float
    write_s: float

    @property
    def held(self) -> bool:
        """Whether nobody waited for long."""
        return max(self.read_s, self.write_s) <= LONGEST_WAIT_S

    def __str__(self) -> str:
        return f"| {self.what} | {self.took_s:.2f} | {1000 * self.read_s:.0f} | {1000 * self.write_s:.0f} |"


def changes(runs: int) -> Iterator[Change]:
    """Fill an empty database with a number of runs, and change their table in one way after the other and back."""
    fill(runs, User.objects.create_user("changes", password=None))
    column = _named("trial_note", models.CharField(max_length=40, null=True))
    counted = _named("trial_count", models.PositiveIntegerField(default=7))
    longer, shorter = (_named("timed_with", models.CharField(max_length=size, blank=True)) for size in (40, 20))
    index = models.Index(fields=["validity", "start_utc"], name="trial_validity")
    for what, act in (
        ("a column that may be empty", lambda editor: editor.add_field(Run, column)),
        ("a column with a default", lambda editor: editor.add_field(Run, counted)),
        ("an index", lambda editor: editor.add_index(Run, index)),
        ("a longer text", lambda editor: editor.alter_field(Run, shorter, longer)),
        ("no index", lambda editor: editor.remove_index(Run, index)),
        ("a shorter text", lambda editor: editor.alter_field(Run, longer, shorter)),
        ("a column less", lambda editor: editor.remove_field(Run, column)),
        ("another column less", lambda editor: editor.remove_field(Run, counted)),
    ):
        yield _changed(what, act)


def _named(name: str, field: models.Field[Any, Any]) -> models.Field[Any, Any]:
    """A field of runs as an upgrade would add it, which no model has."""
    field.set_attributes_from_name(name)
    field.model = Run
    return field


def _changed(what: str, act: Callable[..., None]) -> Change:
    done = threading.Event()
    first = Run.objects.earliest("pk").pk
    waits = {"read": 0.0, "write": 0.0}

    def ask(name: str, request: Callable[[], object]) -> None:
        try:
            while not done.wait(LOOK_S):
                begun = time.perf_counter()
                request()
                waits[name] = max(waits[name], time.perf_counter() - begun)
        finally:
            connection.close()

    people = [
        threading.Thread(target=ask, args=("read", lambda: list(Run.objects.values_list("pk", "kind")[:50]))),
        threading.Thread(target=ask, args=("write", lambda: Run.objects.filter(pk=first).update(notes="read"))),
    ]
    for each in people:
        each.start()
    begun = time.perf_counter()
    with connection.schema_editor() as editor:
        act(editor)
    took_s = time.perf_counter() - begun
    done.set()
    for each in people:
        each.join()
    return Change(what, took_s, waits["read"], waits["write"])
