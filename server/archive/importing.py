"""Taking an archive in: what it would add, what is here already, what differs; then all of it or nothing."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass, field
from itertools import islice
from pathlib import Path
from typing import Any

from django.core.exceptions import FieldDoesNotExist
from django.db import DataError, IntegrityError, models, transaction

from accounts.models import User
from archive.cells import ArchiveError
from archive.contents import KEPT, Kept, Model, columns, files_of
from archive.numbers import Numbers, People, renumber_change, renumbered
from archive.opening import Opened, Row
from coombe_core import __version__
from history import trash
from history.models import Change
from history.recorded import Standing, fields_of, has_history, label_of, plain, standings
from runs import resting, store
from runs.models import Run

AT_ONCE, LARGE_AT_ONCE = 200, 20


@dataclass(frozen=True)
class Conflict:
    """A row that is here and in the archive, and is not the same in both."""

    what: str
    differs: Sequence[str]

    def __str__(self) -> str:
        return f"{self.what}: {'; '.join(self.differs)}"


@dataclass
class Found:
    """What an archive comes to here: how many rows of each model are new or here already, and what differs."""

    added: Counter[Model] = field(default_factory=Counter)
    there: Counter[Model] = field(default_factory=Counter)
    conflicts: list[Conflict] = field(default_factory=list)
    people: Sequence[str] = ()
    stored: bool = False


class _UndoneError(Exception):
    """Takes back what was stored for finding out."""


def take_in(path: Path, only_look: bool = False, keep_here: bool = False) -> Found:
    """Take an archive in, or only look what it comes to.

    Where rows differ nothing is stored, or with `keep_here` the rest is, and what differs stays as it is here.
    Raises ArchiveError with a sentence, and nothing is stored.
    """
    with closing(Opened(path)) as opened:
        taking = _Taking(opened)
        try:
            with transaction.atomic():
                taking.rows()
                if only_look or (taking.found.conflicts and not keep_here):
                    raise _UndoneError
                taking.settle()
                taking.files()
                transaction.on_commit(taking.numbers.reserve)
            taking.found.stored = True
        except _UndoneError:
            pass
        except (IntegrityError, DataError) as error:
            raise ArchiveError(f"it does not fit what is here ({error.args[-1]}). Nothing was stored") from None
        return taking.found


@dataclass
class _Whole:
    """A row of an archive with the rows that are parts of it."""

    row: Row
    parts: dict[Model, list[Row]]


class _Taking:
    """One archive while it is taken in."""

    def __init__(self, opened: Opened) -> None:
        self.found, self.numbers = Found(), Numbers()
        self._opened, self._people = opened, People()
        self._files: set[str] = set()
        self._runs: list[int] = []

    def rows(self) -> None:
        """Compare every row with what is here, and store those that are new."""
        for kept in KEPT:
            known = _known(kept)
            wholes = self._wholes(kept)
            while some := list(islice(wholes, AT_ONCE)):
                self._some(kept, some, known)
        self.found.people = self._people.added

    def settle(self) -> None:
        """Note what the new runs rest on; those that another core timed are timed again."""
        for at in range(0, len(self._runs), AT_ONCE):
            runs = Run.objects.filter(pk__in=self._runs[at : at + AT_ONCE])
            runs.exclude(timed_with=__version__).update(stale=True)
            settled = list(runs.filter(stale=False).only("pk"))
            digests = resting.digests(runs)
            for run in settled:
                run.rests_on = digests[run.pk]
            Run.objects.bulk_update(settled, ["rests_on"])

    def files(self) -> None:
        """Put the files that new rows name into the store."""
        store.keep_all((sha256, self._opened.bytes_of(f"files/{sha256}")) for sha256 in sorted(self._files))

    def _wholes(self, kept: Kept) -> Iterator[_Whole]:
        """The rows of a model with their parts; the tables of the parts are in the order of what they belong to."""
        left = {part: _Ahead(self._opened.rows(part)) for part in kept.parts}
        for row in self._opened.rows(kept.model):
            numbers: dict[Model, set[int]] = {kept.model: {row.number}}
            parts: dict[Model, list[Row]] = {}
            for part, ahead in left.items():
                owner: Any = part._meta.get_field(kept.parts[part].split("__")[0])
                parts[part] = list(ahead.of(owner.attname, numbers[owner.related_model]))
                numbers[part] = {each.number for each in parts[part]}
            yield _Whole(row, parts)
        for ahead in left.values():
            if ahead.next:
                raise ArchiveError(f"{ahead.next.where} belongs to no row that is in the archive, or not in its order")

    def _some(self, kept: Kept, wholes: Sequence[_Whole], known: dict[tuple[Any, ...], list[int]]) -> None:
        new: dict[Model, list[models.Model]] = defaultdict(list)
        numbers = [known[key].pop(0) if known.get(key := self._key(kept, whole.row)) else None for whole in wholes]
        here = _standing(kept, [number for number in numbers if number is not None])
        for whole, number in zip(wholes, numbers, strict=True):
            values = self._translated(kept.model, whole.row)
            if number is None:
                self._add(kept, whole, values, new)
            else:
                self.found.there[kept.model] += 1
                self.numbers.same(kept.model, whole.row.number, number)
                self._compare(kept, whole, values, number, here)
        for model, added in new.items():
            large = any(isinstance(each, models.BinaryField) for each in columns(model))
            trash.insert(model, added, LARGE_AT_ONCE if large else AT_ONCE)

    def _key(self, kept: Kept, row: Row) -> tuple[Any, ...]:
        """What says which row here it is; of it only earlier models are referred to."""
        fields: list[Any] = [kept.model._meta.get_field(name) for name in kept.key]
        return tuple(self._here(each, row.values[each.attname], row) for each in fields)

    def _add(self, kept: Kept, whole: _Whole, values: dict[str, Any], new: dict[Model, list[models.Model]]) -> None:
        self.found.added[kept.model] += 1
        row = self._placed(kept.model, whole.row, values)
        new[kept.model].append(row)
        for part, rows in whole.parts.items():
            new[part] += [self._placed(part, each, self._translated(part, each)) for each in rows]
        if kept.model is Run:
            self._runs.append(row.pk)

    def _placed(self, model: Model, row: Row, values: dict[str, Any]) -> models.Model:
        for each in columns(model):
            if isinstance(each, models.BinaryField) and values[each.attname] is not None:
                values[each.attname] = self._opened.bytes_of(f"traces/{values[each.attname]}")
        self._files |= {values[name] for name in files_of(model) if values[name]}
        return model(**{**values, "id": self.numbers.place(model, row.number)})

    def _translated(self, model: Model, row: Row) -> dict[str, Any]:
        """The values of a row with the numbers that others have here."""
        values = dict(row.values)
        try:
            if model is Change:
                values = renumber_change(values, self.numbers, self._people)
            for each in columns(model):
                name = each.attname
                if name not in values or values[name] is None:
                    continue
                values[name] = renumbered(model, each.name, self._here(each, values[name], row), self.numbers)
        except (TypeError, ValueError, KeyError, AttributeError, FieldDoesNotExist) as error:
            raise ArchiveError(f"{row.where} does not have the form that it should ({error})") from None
        return values

    def _here(self, each: models.Field[Any, Any], value: Any, row: Row) -> Any:
        """A value, or who and what it refers to here."""
        referred: Any = each.related_model
        if referred is None or value is None:
            return value
        if referred is User:
            return self._people.number(value)
        if (known := self.numbers.known(referred, value)) is not None:
            return known
        raise ArchiveError(f"{row.where}: {each.name} {value} is neither in the archive nor the same here")

    def _compare(
        self, kept: Kept, whole: _Whole, values: dict[str, Any], number: int, here: Mapping[Any, Standing]
    ) -> None:
        """Whether what people wrote of a row and its parts is the same here; what a core found is not compared."""
        if not has_history(kept.model):
            return
        standing = here[label_of(kept.model), number]
        differs = [
            f"{name.replace('_', ' ')} is {_shown(standing.values[name])} here, {_shown(value)} there"
            for name, value in _recorded(kept.model, values).items()
            if standing.values[name] != value
        ]
        for part, rows in whole.parts.items():
            if has_history(part) and not self._match(kept, part, rows, number, here):
                differs.append(f"{part._meta.verbose_name_plural} differ")
        if differs:
            self.found.conflicts.append(Conflict(f"{kept.model._meta.verbose_name} {standing.label}", differs))

    def _match(self, kept: Kept, part: Model, rows: Sequence[Row], number: int, here: Mapping[Any, Standing]) -> bool:
        """Find the rows here that parts of a row are; whether each has its own, and none is left."""
        owner = kept.parts[part]
        left = [
            (pk, _without(standing.values, owner))
            for (label, pk), standing in here.items()
            if label == label_of(part) and standing.owner == (label_of(kept.model), number)
        ]
        for row in rows:
            try:
                values = _without(_recorded(part, self._translated(part, row)), owner)
            except ArchiveError:  # it refers to a part that differs
                return False
            same = next((each for each in left if each[1] == values), None)
            if same is None:
                return False
            left.remove(same)
            self.numbers.same(part, row.number, same[0])
        return not left


class _Ahead:
    """The rows of a table, of which the next can be looked at."""

    def __init__(self, rows: Iterator[Row]) -> None:
        self._rows = rows
        self.next = next(rows, None)

    def of(self, name: str, numbers: set[int]) -> Iterator[Row]:
        """The next rows that refer to some numbers."""
        while self.next and self.next.values[name] in numbers:
            yield self.next
            self.next = next(self._rows, None)


def _known(kept: Kept) -> dict[tuple[Any, ...], list[int]]:
    """The numbers of the rows here by their key: several rows may be alike, such as two equal readings of a day."""
    fields: list[Any] = [kept.model._meta.get_field(name) for name in kept.key]
    found: dict[tuple[Any, ...], list[int]] = defaultdict(list)
    rows: Iterable[Any] = kept.model._base_manager.order_by("pk").values_list("pk", *(each.attname for each in fields))
    for pk, *key in rows:
        found[tuple(key)].append(pk)
    return found


def _standing(kept: Kept, numbers: Sequence[int]) -> Mapping[Any, Standing]:
    return standings(kept.model, numbers) if has_history(kept.model) and numbers else {}


def _recorded(model: Model, values: Mapping[str, Any]) -> dict[str, Any]:
    """What people wrote of a row, as the history has it."""
    return {each.name: plain(values[each.attname]) for each in fields_of(model) if each.attname in values}


def _without(values: Mapping[str, Any], owner: str) -> dict[str, Any]:
    return {name: value for name, value in values.items() if name != owner}


def _shown(value: Any) -> str:
    return "empty" if value in (None, "") else str(value)[:40]
