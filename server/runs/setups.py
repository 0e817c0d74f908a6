"""Two setups of a car that are one, and one that is two: their runs go with them."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import F, Model
from django.forms.models import model_to_dict

from accounts.models import User
from cars.models import Setup
from config.errors import UnfitError
from history.recorded import has_history
from history.services import Act, act
from runs.filters import within_days


def merge(setup: Setup, into: Setup, person: User) -> Setup:
    """Move all that refers to a setup to another of the same car, and delete the first.

    Raises UnfitError where they are one already, or are of two cars.
    """
    if setup.pk == into.pk:
        raise UnfitError("A setup can't be merged with itself. Choose another one of this car.", "into")
    if setup.car_id != into.car_id:
        raise UnfitError(f"{into} is a setup of another car.", "into")
    with act(person, f"Merged setup {setup} into {into.name}", setup, into) as made:
        for relation in Setup._meta.related_objects:
            _refer(made, relation.related_model, relation.field.name, setup, into)
        made.delete(setup)
    return into


def split(setup: Setup, since: date, values: Mapping[str, Any], person: User) -> Setup:
    """Give the runs from a day on a setup of their own, which begins as a copy of theirs with `values` in it.

    Raises UnfitError where no run, or every run, would go there, or where the name is taken.
    """
    later = setup.runs.filter(within_days(since, None))
    if not later.exists() or later.count() == setup.runs.count():
        raise UnfitError(f"{setup.name} has runs only on one side of that day. Choose a day between them.", "since")
    copied = model_to_dict(setup, exclude=["id", "car", "revision"])
    try:
        with transaction.atomic(), act(person, f"Split setup {setup} at {since:%Y-%m-%d}", setup) as made:
            made.watch(*later)
            new = Setup.objects.create(**{**copied, **values, "car": setup.car, "since": since})
            made.added(new)
            later.update(setup=new, revision=F("revision") + 1)
    except IntegrityError:
        raise UnfitError("This car has a setup of that name already.", "name") from None
    return new


def _refer(made: Act, model: type[Model], field: str, setup: Setup, into: Setup) -> None:
    """Have the rows of a model that refer to a setup refer to another one."""
    rows = model._base_manager.filter(**{field: setup})
    if has_history(model):
        made.watch(*rows)
    revised = {"revision": F("revision") + 1} if any(each.name == "revision" for each in model._meta.fields) else {}
    rows.update(**{field: into}, **revised)
