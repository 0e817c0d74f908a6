"""The numbers of rows: what each row of an archive is called here, also where others name it inside JSON."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from typing import Any

from django.db import connection

from accounts.models import User
from archive.cells import ArchiveError
from archive.contents import MODELS, SHOWN, Model
from comparisons.models import Comparison
from history.models import Change
from history.recorded import label_of
from reports.models import Report, Version
from runs.models import Run
from studies.models import Study


class Numbers:
    """Where each row of an archive goes. A row that is new keeps its number where no row here has or had it."""

    def __init__(self) -> None:
        self._here: dict[Model, dict[int, int]] = defaultdict(dict)
        self._taken: dict[Model, set[int]] = {}
        self._next: dict[Model, int] = {}

    def same(self, model: Model, number: int, here: int) -> None:
        """A row of the archive is one that is here already."""
        self._here[model][number] = here

    def known(self, model: Model, number: int) -> int | None:
        """What a row that was placed, or is here already, is called here."""
        return self._here[model].get(number)

    def place(self, model: Model, number: int) -> int:
        """What a row is called here; one that is gone there too gets a number that no other row will have."""
        if (known := self.known(model, number)) is not None:
            return known
        taken = self._taken_by(model)
        here = number
        if number in taken:
            here = self._next[model]
        self._next[model] = max(self._next[model], here + 1)
        taken.add(here)
        self._here[model][number] = here
        return here

    def reserve(self) -> None:
        """Have the database give no new row a number that was placed; DDL, so after the transaction."""
        with connection.cursor() as cursor:
            for model, number in self._next.items():
                table = connection.ops.quote_name(model._meta.db_table)
                cursor.execute(f"ALTER TABLE {table} AUTO_INCREMENT = {number:d}")  # never below what is there

    def _taken_by(self, model: Model) -> set[int]:
        if model not in self._taken:
            rows = set(model._base_manager.values_list("pk", flat=True))
            gone = set(Change.objects.filter(model=label_of(model)).values_list("row", flat=True))
            self._taken[model] = rows | gone
            self._next[model] = max(self._taken[model], default=0) + 1
        return self._taken[model]


def renumbered(model: Model, name: str, value: Any, numbers: Numbers) -> Any:
    """A JSON value of a field with the numbers that rows have here."""
    rule = _RULES.get((model, name))
    return rule(value, numbers) if rule and value else value


def _runs(value: Mapping[str, Any], numbers: Numbers) -> dict[str, Any]:
    runs = {str(numbers.place(Run, int(run))): found for run, found in value.get("runs", {}).items()}
    return {**value, "runs": runs} if "runs" in value else dict(value)


def _parts(value: list[dict[str, Any]], numbers: Numbers) -> list[dict[str, Any]]:
    return [
        {**part, "id": numbers.place(SHOWN[part["kind"]], part["id"])} if part["kind"] in SHOWN else part
        for part in value
    ]


_RULES: Mapping[tuple[Model, str], Callable[[Any, Numbers], Any]] = {
    (Comparison, "kept"): _runs,
    (Study, "kept"): _runs,
    (Version, "content"): _runs,
    (Report, "parts"): _parts,
}


def renumber_change(values: dict[str, Any], numbers: Numbers, people: People) -> dict[str, Any]:
    """What an action did to a row, with the numbers that the rows have here."""
    model, owner = _kept(values["model"]), _kept(values["owner_model"])
    if model is None:
        raise ArchiveError(f"it has a change of {values['model']!r}, which is none of its tables")
    changed = {
        name: [_changed(model, name, value, numbers, people) for value in pair]
        for name, pair in values["values"].items()
    }
    owner_row = numbers.place(owner, values["owner_row"]) if owner and values["owner_row"] else None
    return {**values, "row": numbers.place(model, values["row"]), "owner_row": owner_row, "values": changed}


def _kept(label: str) -> Model | None:
    return next((model for model in MODELS if label_of(model) == label), None)


def _changed(model: Model, name: str, value: Any, numbers: Numbers, people: People) -> Any:
    referred: Any = model._meta.get_field(name).related_model
    if referred is User and isinstance(value, str):
        return people.number(value)
    if referred in MODELS and isinstance(value, int):
        return numbers.place(referred, value)
    return renumbered(model, name, value, numbers)


class People:
    """The people that an archive names: those here of the same names, or new ones who can't log in."""

    def __init__(self) -> None:
        self._numbers = dict(User.objects.values_list("username", "pk"))
        self.added: list[str] = []

    def number(self, name: str) -> int:
        """Who that is here."""
        if name not in self._numbers:
            person = User(username=name, is_active=False)
            person.set_unusable_password()
            person.save()
            self._numbers[name] = person.pk
            self.added.append(name)
        return self._numbers[name]
