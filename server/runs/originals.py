"""Store and database side by side: what rows name and what is there, the trash, and taking files back into rows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from django.apps import apps

from accounts.models import User
from cars.models import Car, Setup
from coombe_core.formats import ReadError
from history import trash
from runs import store
from runs.models import Attachment, CanLog, Log
from runs.services import import_log

ADOPTED_CAR, ADOPTED_SETUP = "Unknown car", "Adopted logs"


def named() -> dict[str, str]:
    """Every hash that a row names, with what the row is."""
    found = {sha256: f"log {name}" for sha256, name in Log.objects.values_list("sha256", "name") if sha256}
    found |= {sha256: f"CAN log {name}" for sha256, name in CanLog.objects.values_list("sha256", "name")}
    found |= {sha256: f"attachment {name}" for sha256, name in Attachment.objects.values_list("sha256", "name")}
    deleted = [kept for model in (Log, CanLog, Attachment) for kept in trash.kept(model)]
    return {row["sha256"]: f"deleted {row['name']}" for row in deleted if row["sha256"]} | found | _elsewhere()


def _elsewhere() -> dict[str, str]:
    """What models of other apps keep in the store: they say so by `STORED`, their fields and what those hold."""
    found: dict[str, str] = {}
    for model in apps.get_models():
        for field, what in getattr(model, "STORED", {}).items():
            name = model._meta.verbose_name
            deleted = (row[field] for row in trash.kept(model))
            found |= {sha256: f"{what} of a deleted {name}" for sha256 in deleted if sha256}
            there = model._base_manager.exclude(**{field: ""}).values_list(field, flat=True)
            found |= dict.fromkeys(there, f"{what} of a {name}")
    return found


def findings(checked: store.Check, rows: dict[str, str]) -> list[str]:
    """What a check found, a sentence each."""
    lines = [f"missing: {rows[sha256]} ({sha256}). Import the file again to mend it." for sha256 in checked.missing]
    lines += [f"damaged: {rows[sha256]} ({sha256}). Import the file again to mend it." for sha256 in checked.damaged]
    lines += [f"unknown: no row names {sha256}. ./coombe adopt takes it back as a log." for sha256 in checked.unknown]
    return lines + [f"unfinished: {path.name} was never completed; it is safe to delete." for path in checked.partial]


@dataclass(frozen=True)
class Adopted:
    """What became of a file that no row named; `log` is None where it could not be read as one."""

    sha256: str
    log: Log | None
    sentence: str


def adopt(hashes: list[str], setup: Setup | None, person: User) -> list[Adopted]:
    """Import files that no row names, from the store or the trash, as logs of a setup."""
    unknown = [*store.check(set(named()), thorough=False).unknown, *store.in_trash()]
    return [_adopted(sha256, setup or _adopted_setup(), person) for sha256 in hashes or unknown]


def _adopted(sha256: str, setup: Setup, person: User) -> Adopted:
    try:
        data = store.take_back(sha256)
        done = import_log(f"adopted {sha256[:12]}", data, setup, person, {})
    except (ReadError, store.StoreError) as error:
        return Adopted(sha256, None, f"{sha256[:12]}: not taken back: {error}")
    runs = done.log.runs.count()
    return Adopted(sha256, done.log, f"{sha256[:12]}: {done.log.name}, {done.log.format}, {runs} runs")


def _adopted_setup() -> Setup:
    car, _ = Car.objects.get_or_create(name=ADOPTED_CAR)
    return Setup.objects.get_or_create(car=car, name=ADOPTED_SETUP, defaults={"since": date.today()})[0]
