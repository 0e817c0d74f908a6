"""Store and database side by side: what rows name and what lies there, the trash, and taking files back into rows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from accounts.models import User
from cars.models import Car, SetUp
from coombe_core.formats import ReadError
from runs import store
from runs.models import Attachment, BusRecord, Log
from runs.services import import_log

ADOPTED_CAR, ADOPTED_SET_UP = "Unknown car", "Adopted logs"


def named() -> dict[str, str]:
    """Every hash that a row names, with what the row is."""
    found = {sha256: f"log {name}" for sha256, name in Log.objects.values_list("sha256", "name") if sha256}
    found |= {sha256: f"CAN log {name}" for sha256, name in BusRecord.objects.values_list("sha256", "name")}
    return found | {sha256: f"attachment {name}" for sha256, name in Attachment.objects.values_list("sha256", "name")}


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


def adopt(hashes: list[str], set_up: SetUp | None, person: User) -> list[Adopted]:
    """Import files that no row names, from the store or the trash, as logs of a set-up."""
    unknown = [*store.check(set(named()), thorough=False).unknown, *store.in_trash()]
    return [_adopted(sha256, set_up or _adopted_set_up(), person) for sha256 in hashes or unknown]


def _adopted(sha256: str, set_up: SetUp, person: User) -> Adopted:
    try:
        data = store.take_back(sha256)
        done = import_log(f"adopted {sha256[:12]}", data, set_up, person, {})
    except (ReadError, store.StoreError) as error:
        return Adopted(sha256, None, f"{sha256[:12]}: not taken back: {error}")
    runs = done.log.runs.count()
    return Adopted(sha256, done.log, f"{sha256[:12]}: {done.log.name}, {done.log.format}, {runs} runs")


def _adopted_set_up() -> SetUp:
    car, _ = Car.objects.get_or_create(name=ADOPTED_CAR)
    return SetUp.objects.get_or_create(car=car, name=ADOPTED_SET_UP, defaults={"since": date.today()})[0]
