"""Writing an archive: the same rows give the same tables."""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, BinaryIO

from django.apps import apps
from django.db import models, transaction
from django.utils import timezone

from accounts.models import User
from archive.cells import heading, schema_of, written
from archive.contents import KEPT, AnyField, Kept, Model, columns, files_of, table_of
from cars.models import Car
from coombe_core import __version__
from coombe_core.packages.writing import LONG_AGO
from history.models import Action, Change
from history.recorded import label_of
from runs import store

FORMAT = "coombe-archive-1"
AT_ONCE, LARGE_AT_ONCE = 2000, 50
README = """This is an archive of Coombe: rows of its database and the files that they name, after the Data Package
standard. `./coombe import-archive` takes it into another installation. Tables are named by what they hold; times are
UTC, units are in the names of columns, `files/` and `traces/` are named by the SHA-256 of what they hold.
People are names alone: no password, token or link is in here.
"""


@dataclass
class _Writing:
    """An archive while it is written: what is in it, by the number of each row."""

    archive: zipfile.ZipFile
    car: Car | None
    there: dict[Model, set[int]] = field(default_factory=lambda: defaultdict(set))
    resources: dict[str, dict[str, object]] = field(default_factory=dict)
    files: set[str] = field(default_factory=set)
    people: dict[int, str] = field(default_factory=lambda: dict(User.objects.values_list("pk", "username")))


def export(out: BinaryIO, car: Car | None = None) -> None:
    """Write everything, or what belongs to one car, as it stands at one moment.

    Raises StoreError where a file that a row names is not there as it was stored.
    """
    with transaction.atomic(), zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        writing = _Writing(archive, car)
        _put(writing, "README.md", README.encode(), zipfile.ZIP_DEFLATED)
        for kept in KEPT:
            _table(writing, kept.model, _chosen(kept, writing), "pk")
            for part, way in kept.parts.items():
                of_these = {} if car is None else {f"{way}__in": writing.there[kept.model]}
                _table(writing, part, part._base_manager.filter(**of_these), f"{way}_id", "pk")
        for sha256 in sorted(writing.files):
            _put(writing, f"files/{sha256}", store.read(sha256), zipfile.ZIP_DEFLATED)
        archive.writestr(zipfile.ZipInfo("datapackage.json", LONG_AGO), _descriptor(writing), zipfile.ZIP_DEFLATED)


def _chosen(kept: Kept, writing: _Writing) -> models.QuerySet[Any]:
    rows = kept.model._base_manager.filter(kept.everything)
    if writing.car is None:
        return rows
    if kept.model is Action:
        return rows.filter(pk__in=_actions(writing))
    return rows.filter(pk__in=set(rows.filter(kept.of_car(writing.car)).values_list("pk", flat=True)))


def _actions(writing: _Writing) -> set[int]:
    """What was done to rows that are in the archive."""
    found: set[int] = set()
    for model, numbers in writing.there.items():
        found |= set(Change.objects.filter(model=label_of(model), row__in=numbers).values_list("action", flat=True))
    return found


def _table(writing: _Writing, model: Model, rows: models.QuerySet[Any], *order: str) -> None:
    """Write the rows of a model of which everything that they refer to is in the archive."""
    fields = columns(model)
    large = [each for each in fields if isinstance(each, models.BinaryField)]
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([heading(each) for each in fields])
    for values in _read(rows.order_by(*order), fields, LARGE_AT_ONCE if large else AT_ONCE):
        if not _belongs(writing, model, fields, values):
            continue
        row = dict(zip(fields, values, strict=True))
        writing.there[model].add(values[0])
        writing.files |= {row[each] for each in fields if each.name in files_of(model) and row[each]}
        for each in large:
            if row[each] is not None:
                row[each] = _trace(writing, bytes(row[each]))
        writer.writerow([written(each, value) for each, value in row.items()])
    path = f"tables/{table_of(model)}.csv"
    _put(writing, path, out.getvalue().encode(), zipfile.ZIP_DEFLATED)
    tabular = {"profile": "tabular-data-resource", "format": "csv", "encoding": "utf-8", "mediatype": "text/csv"}
    writing.resources[path] |= {**tabular, "name": table_of(model), "schema": schema_of(model)}


def _read(rows: models.QuerySet[Any], fields: tuple[AnyField, ...], at_once: int) -> Iterator[list[Any]]:
    for values in rows.values_list(*(each.attname for each in fields)).iterator(chunk_size=at_once):
        yield list(values)


def _belongs(writing: _Writing, model: Model, fields: tuple[AnyField, ...], values: list[Any]) -> bool:
    """Whether all that a row refers to is in the archive; what it can do without is emptied."""
    if model is Change:
        there = {label_of(each): numbers for each, numbers in writing.there.items()}
        label, number, changed = (
            values[[each.name for each in fields].index(name)] for name in ("model", "row", "values")
        )
        if label not in there or (writing.car and number not in there[label]):
            return False
        _name_people(apps.get_model(label), changed, writing.people)
    for place, each in enumerate(fields):
        referred: Any = each.related_model
        if referred is None or values[place] is None:
            continue
        if referred is User:
            values[place] = writing.people[values[place]]
        elif values[place] not in writing.there[referred]:
            if not each.null:
                return False
            values[place] = None
    return True


def _name_people(model: Model, changed: dict[str, list[Any]], people: Mapping[int, str]) -> None:
    for name, pair in changed.items():
        if model._meta.get_field(name).related_model is User:
            changed[name] = [number and people.get(number) for number in pair]


def _trace(writing: _Writing, data: bytes) -> str:
    sha256 = hashlib.sha256(data).hexdigest()
    if f"traces/{sha256}" not in writing.resources:
        _put(writing, f"traces/{sha256}", data, zipfile.ZIP_STORED)
    return sha256


def _put(writing: _Writing, path: str, data: bytes, how: int) -> None:
    writing.archive.writestr(zipfile.ZipInfo(path, LONG_AGO), data, how)
    writing.resources[path] = {
        "name": path.lower().replace("/", "-"),
        "path": path,
        "bytes": len(data),
        "hash": f"sha256:{hashlib.sha256(data).hexdigest()}",
        "mediatype": "application/octet-stream",
    }


def _descriptor(writing: _Writing) -> str:
    described = {
        "profile": "data-package",
        "coombe_format": FORMAT,
        "name": "coombe-archive",
        "title": f"Everything of {writing.car}" if writing.car else "Everything",
        "created": timezone.now().isoformat(timespec="seconds"),
        "core_version": __version__,
        "resources": list(writing.resources.values()),
    }
    return json.dumps(described, indent=1)
