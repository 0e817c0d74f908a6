"""Carrying out what a person does to stored data, with its history; and taking it back."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.apps import apps
from django.db import IntegrityError, models, transaction
from django.dispatch import Signal

from accounts.models import User
from config.errors import Conflict
from history import trash
from history.models import Action, Change, ChangeKind
from history.recorded import Key, Standing, has_history, label_of, plain, standings

AT_ONCE = 500
# Sent after rows of a model or parts of theirs have changed, within the transaction; `rows` has their numbers.
changed = Signal()
# The number of the action that was carried out last, for the answer of a request.
latest: ContextVar[int | None] = ContextVar("latest", default=None)


class Act:
    """One action while it is carried out: what the rows that it touches were before."""

    def __init__(self, person: User, title: str, undoes: Action | None = None) -> None:
        self.action = Action(person=person, title=title[:200], undoes=undoes)
        self._before: dict[Key, Standing] = {}
        self._trashed: set[Key] = set()
        self._roots: dict[type[models.Model], set[int]] = defaultdict(set)

    def watch(self, *rows: models.Model) -> None:
        """Keep what becomes of rows and their parts from here on; each is there already."""
        for model, numbers in _by_model(rows).items():
            self._before = standings(model, numbers) | self._before
            self._roots[model] |= numbers

    def added(self, *rows: models.Model) -> None:
        """Keep that rows were added."""
        for model, numbers in _by_model(rows).items():
            self._roots[model] |= numbers

    def delete(self, *rows: models.Model) -> None:
        """Delete rows with all that hangs on them, into the trash.

        Raises ProtectedError or RestrictedError where something else needs one of them.
        """
        hanging = [row for row in trash.hanging_on(rows) if has_history(type(row))]
        self.watch(*hanging, *trash.let_go(rows))
        self._trashed |= {(label_of(type(row)), row.pk) for row in hanging}
        self._store()
        trash.discard(rows, self.action)

    def finish(self) -> None:
        """Keep the action with what it changed; nothing where it changed nothing."""
        after: dict[Key, Standing] = {}
        for model, numbers in self._roots.items():
            after |= standings(model, numbers)
        changes = [
            change
            for key in {**self._before, **after}
            if (change := _change(key, self._before.get(key), after.get(key), key in self._trashed)) is not None
        ]
        if not changes:
            return
        self._store()
        for change in changes:
            change.action = self.action
        _name_references(changes)
        Change.objects.bulk_create(changes, batch_size=AT_ONCE)
        _tell(changes)
        latest.set(self.action.pk)

    def _store(self) -> None:
        if self.action.pk is None:
            self.action.save()


@contextmanager
def act(person: User, title: str, *rows: models.Model) -> Iterator[Act]:
    """Carry out what a person does to rows, all of it or nothing, and keep what it came to.

    The rows are there already; what is added or deleted is said to the action that this gives.
    """
    with transaction.atomic():
        made = Act(person, title)
        made.watch(*rows)
        yield made
        made.finish()


def undo(action: Action, person: User) -> Action:
    """Take an action back, as an action of its own, which can be taken back too.

    Raises Conflict where it was taken back already, or where what it changed has changed again since.
    """
    try:
        with transaction.atomic():
            return _undo(Action.objects.select_for_update().get(pk=action.pk), person)
    except models.ProtectedError:
        raise
    except IntegrityError:
        raise Conflict("Something else stands in its place by now. Nothing was changed.") from None


def _undo(action: Action, person: User) -> Action:
    if Action.objects.filter(undoes=action).exists():
        raise Conflict("This was undone already. Nothing was changed.")
    changes = list(action.changes.all())
    deleted = [change for change in changes if change.kind == ChangeKind.DELETED]
    if any(not change.values for change in deleted) and not action.trashed_rows.exists():
        raise Conflict("What this deleted is no longer in the trash. Nothing was changed.")
    made = Act(person, f"Undo: {action.title}", action)
    added = [change for change in changes if change.kind == ChangeKind.ADDED]
    _delete_again(
        (change for change in added if change.owner_model), made
    )  # the parts that came in the place of others
    made.added(*(row for row in trash.bring_back(action) if has_history(type(row))))
    made.added(*map(_rebuilt, (change for change in deleted if change.values)))
    for model, rows in _by_row(change for change in changes if change.kind == ChangeKind.CHANGED).items():
        _set_back(model, rows, made)
    _delete_again((change for change in added if not change.owner_model), made)
    made.finish()
    return made.action


def _delete_again(added: Iterable[Change], made: Act) -> None:
    for model, changes in _by_row(added).items():
        rows = list(model._base_manager.filter(pk__in=changes))
        if rows:
            made.delete(*rows)


def _rebuilt(change: Change) -> models.Model:
    """Store a part that was replaced again."""
    model = apps.get_model(change.model)
    row: models.Model = model(pk=change.row)
    for name, (old, _) in change.values.items():
        _set(row, name, old)
    row.save(force_insert=True)
    return row


def _set(row: models.Model, name: str, value: Any) -> None:
    field: Any = row._meta.get_field(name)
    setattr(row, field.attname, field.to_python(value))


def _set_back(model: type[models.Model], changes: dict[int, Change], made: Act) -> None:
    rows = {row.pk: row for row in model._base_manager.select_for_update().filter(pk__in=changes)}
    if gone := set(changes) - set(rows):
        raise Conflict(f"{changes[min(gone)].label} is no longer there. Nothing was changed.")
    made.watch(*rows.values())
    touched = set()
    for number, row in rows.items():
        for name, (old, new) in changes[number].values.items():
            field: Any = model._meta.get_field(name)
            if plain(field.value_from_object(row)) != new:
                raise Conflict(f"{changes[number].label} was changed again since: {name}. Nothing was changed.")
            _set(row, name, old)
            touched.add(name)
        if hasattr(row, "revision"):
            row.revision += 1
            touched.add("revision")
    model._base_manager.bulk_update(rows.values(), sorted(touched), batch_size=AT_ONCE)


def _by_model(rows: Iterable[models.Model]) -> dict[type[models.Model], set[int]]:
    found: dict[type[models.Model], set[int]] = defaultdict(set)
    for row in rows:
        found[type(row)].add(row.pk)
    return found


def _by_row(changes: Iterable[Change]) -> dict[type[models.Model], dict[int, Change]]:
    """Changes by the model and the number of their rows."""
    found: dict[type[models.Model], dict[int, Change]] = defaultdict(dict)
    for change in changes:
        found[apps.get_model(change.model)][change.row] = change
    return found


def _change(key: Key, before: Standing | None, after: Standing | None, trashed: bool) -> Change | None:
    """What became of a row; None where it is as it was. A part that was replaced is in the values, not in the trash."""
    standing = after or before
    assert standing
    kind, values = ChangeKind.CHANGED, {}
    if before is None:
        kind = ChangeKind.ADDED
    elif after is None:
        kind = ChangeKind.DELETED
        values = {} if trashed else {name: [old, None] for name, old in before.values.items()}
    else:
        values = {name: [old, after.values[name]] for name, old in before.values.items() if after.values[name] != old}
        if not values:
            return None
    owner_model, owner_row = standing.owner or ("", None)
    label = (before or standing).label
    return Change(
        kind=kind,
        model=key[0],
        row=key[1],
        owner_model=owner_model,
        owner_row=owner_row,
        label=label,
        revision=standing.revision,
        values=values,
    )


def _name_references(changes: Iterable[Change]) -> None:
    """Note what the rows that changes refer to are called, as they may be renamed or gone when somebody reads this."""
    wanted: dict[type[models.Model], set[int]] = defaultdict(set)
    asked = []
    for change in changes:
        model = apps.get_model(change.model)
        for name, pair in change.values.items():
            related = model._meta.get_field(name).related_model
            if related:
                wanted[related] |= {number for number in pair if number is not None}
                asked.append((change, name, related))
    named = {
        model: {row.pk: str(row) for row in model._base_manager.filter(pk__in=numbers)}
        for model, numbers in wanted.items()
    }
    for change, name, related in asked:
        change.names[name] = [named[related].get(number, "") for number in change.values[name]]


def _tell(changes: Iterable[Change]) -> None:
    rows: dict[str, set[int]] = defaultdict(set)
    for change in changes:
        rows[change.model].add(change.row)
        if change.owner_row is not None:
            rows[change.owner_model].add(change.owner_row)
    for label, numbers in rows.items():
        changed.send(sender=apps.get_model(label), rows=numbers)
