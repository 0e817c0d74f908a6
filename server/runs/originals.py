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
from runs.models import Log
from runs.services import import_log

ADOPTED_CAR, ADOPTED_SETUP = "Unknown car", "Adopted logs"


def named() -> dict[str, str]:
    """Every hash that a row names, with what the row is; models say by `STORED` which columns hold hashes of what."""
    there: dict[str, str] = {}
    deleted: dict[str, str] = {}
    for model in apps.get_models():
        for field, what in getattr(model, "STORED", {}).items():
            called = [each.name for each in model._meta.concrete_fields if each.name == "name"]
            for sha256, *name in model._base_manager.values_list(field, *called):
                there[sha256] = f"{what} {name[0]}" if name else f"{what} of a {model._meta.verbose_name}"
            for row in trash.kept(model):
                deleted[row[field]] = f"deleted {row.get('name', what)}"
    return {sha256: what for sha256, what in (deleted | there).items() if sha256}


def findings(checked: store.Check, rows: dict[str, str]) -> list[str]:
    """What a check found, a sentence each."""
    lines = [f"missing: {rows[sha256]} ({sha256}). Import the file again to mend it." for sha256 in checked.missing]
    lines += [f"damaged: {rows[sha256]} ({sha256}). Import the file again to mend it." for sha256 in checked.damaged]
    lines += [f"unknown: no row names {sha256}. ./coombe adopt takes it back as a log." for sha256 in checked.unknown]
    return lines + [f"unfinished: {name} was never completed; it is safe to delete." for name in checked.partial]


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
