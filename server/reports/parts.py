"""What a report is made of: each kind of part, worked out from what is stored now."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from comparisons.details import details
from comparisons.models import Comparison
from comparisons.saved import ask
from comparisons.services import answer as compared
from config.errors import TellableError
from config.fields import shown_local
from coombe_core.physics.air import density_altitude_m
from coombe_core.wording.comparison import CLOCK_WORDS
from coombe_core.wording.quantities import listed
from reports import pictures
from reports.units import NONE, PERCENT, SECOND, Unit, unit_of
from runs.models import Run
from runs.physics import air_of
from studies import all_cars
from studies.models import Study
from studies.serializers import StudyResultSerializer
from studies.services import answer as studied
from studies.services import question_of

KINDS = ("text", "comparison", "study", "slip", "all cars")
STRIP_LINES = ("60 ft", "330 ft", "1/8 mile", "1000 ft", "1/4 mile")
SPRINTS = {"us": ("0-30 mph", "0-60 mph", "0-100 mph"), "metric": ("0-50 km/h", "0-100 km/h", "0-200 km/h")}
TABLE = {
    "us": ("0-60 mph|rollout", "1/4 mile|rollout", "60-0 mph|speed"),
    "metric": ("0-100 km/h|first_movement", "1/4 mile|rollout", "100-0 km/h|speed"),
}
KIND_OF = {"time": "time", "distance": "distance", "line_speed": "speed", "trap_speed": "speed", "peak_power": "power"}


class PartError(TellableError):
    """A part that can't be made; its text is a sentence that says which and what to do."""

    status_code, code = 409, "no_longer_fits"


@dataclass(frozen=True)
class Picture:
    """A picture with what it shows in words."""

    address: str
    alt: str


@dataclass(frozen=True)
class Part:
    """A part as it is published: what it says and what a card of it shows, its pictures, the runs that it rests on."""

    content: dict[str, Any]
    pictures: Sequence[Picture] = ()
    runs: frozenset[int] = frozenset()
    comparison: Comparison | None = None


def made(asked: Mapping[str, Any], units: str) -> Part:
    """One part. Raises PartError where what it shows is gone, or can no longer be made."""
    return MADE[asked["kind"]](asked, units)


def _text(asked: Mapping[str, Any], units: str) -> Part:
    return Part({"kind": "text", "paragraphs": [line for line in asked["text"].split("\n\n") if line.strip()]})


def _comparison(asked: Mapping[str, Any], units: str) -> Part:
    comparison = Comparison.objects.filter(pk=asked["id"]).first()
    if comparison is None:
        raise PartError(f"Comparison {asked['id']} was deleted. Take it out of the report.")
    try:
        question = ask(comparison)
        found, more = compared(question), details(question)
    except ValueError as error:
        raise PartError(f"{comparison.title}: {error}. Choose its runs again, or take it out.") from None
    unit = unit_of(KIND_OF[found["quantity"]], units)
    names = [group["name"] for group in found["groups"]]
    pairs = [_pair(pair, names, unit) for pair in found["pairs"]]
    content: dict[str, Any] = {
        "kind": "comparison",
        "title": comparison.title,
        "measure": f"{found['measure']} ({CLOCK_WORDS[found['clock']]})",
        "unit": unit.name,
        "groups": [_group(group, unit) for group in found["groups"]],
        "pairs": pairs,
        "gaps": [gap["sentence"] for gap in more["gaps"] if gap["sentence"]],
        "runs": [_member(row, names, unit) for row in found["runs"]],
    }
    shown = [
        {name: value / unit.factor for name, value in pair["difference"].items()} | {"name": names[pair["group"]]}
        for pair in found["pairs"]
        if pair["difference"]
    ]
    first = pairs[0] if pairs else None
    content["card"] = {
        "title": comparison.title,
        "answer": first["answer"] if first and first["answer"] else "too few runs",
        "word": f"{content['measure']}: {first['verdict']}" if first else content["measure"],
        "pair": shown[0] if shown else None,
        "unit": unit.name,
    }
    drawn = _pictures(found, more["overlays"]["speed_time"], shown, units)
    return Part(content, drawn, frozenset(row["id"] for row in found["runs"]), comparison)


def _pictures(
    found: Mapping[str, Any], curves: Sequence[Mapping[str, Any]], shown: Sequence[Mapping[str, Any]], units: str
) -> list[Picture]:
    """The differences, every value, and the mean curves, as far as there are any."""
    unit, names = unit_of(KIND_OF[found["quantity"]], units), [group["name"] for group in found["groups"]]
    values = [
        (name, [row["value"] for row in found["runs"] if row["group"] == place and not row["dropped"]])
        for place, name in enumerate(names)
    ]
    drawn = []
    if shown:
        alt = " ".join(pair["sentence"] for pair in found["pairs"])
        drawn.append(Picture(pictures.svg(pictures.interval(shown, unit.name)), alt))
    every = pictures.strip(values, unit, found["measure"])
    drawn.append(Picture(pictures.svg(every), f"Every value of {listed(names)}."))
    if figure := pictures.curves(names, curves, units):
        drawn.append(Picture(pictures.svg(figure), f"Mean speed against time of {listed(names)}."))
    return drawn


def _pair(pair: Mapping[str, Any], names: Sequence[str], unit: Unit) -> dict[str, Any]:
    difference = pair["difference"]
    half = difference and (difference["high95"] - difference["low95"]) / 2
    return {
        "name": f"{names[pair['group']]} minus {names[0]}",
        "verdict": pair["verdict"],
        "sentence": pair["sentence"],
        "answer": unit.difference(difference["value"], half) if difference else "",
        "reasons": pair["reasons"],
        "adjusted": [
            f"{row['factor']}: {unit.difference(row['removed'], 0.0).split(' ±')[0]} taken out, by {row['source']}"
            for row in pair["adjustments"]
        ],
        "refused": [f"{name}: {why}" for name, why in pair["refused"].items()],
        "differs": [_condition(row) for row in pair["condition_differences"] if row["differs"]],
    }


def _condition(row: Mapping[str, Any]) -> dict[str, str]:
    def side(name: str) -> str:
        if row[name] is not None:
            return f"{row[name]:.{row['digits']}f} {row['unit']}".strip().replace("-", "−")
        return ", ".join(f"{word} ({count})" for word, count in row[f"{name}_words"].items()) or "not noted"

    return {"factor": row["factor"], "before": side("before"), "after": side("after")}


def _group(group: Mapping[str, Any], unit: Unit) -> dict[str, Any]:
    typed = f" (typed, from: {group['source'] or 'not stated'})" if group["from_elsewhere"] else ""
    return {
        "name": group["name"] + typed,
        "runs": f"{group['n']} of {group['attempts']}",
        "mean": unit.text(group["mean"]),
        "sd": unit.text(group["sd"]),
        "best": unit.text(group["best"]),
    }


def _member(row: Mapping[str, Any], names: Sequence[str], unit: Unit) -> dict[str, str]:
    return {
        "start": row["start_local"],
        "group": names[row["group"]],
        "setup": row["setup_name"],
        "direction": row["direction"] or NONE,
        "charge": PERCENT.text(row["charge_before_percent"]),
        "value": unit.text(row["value"], row["u95"]),
        "dropped": row["dropped"],
    }


def _study(asked: Mapping[str, Any], units: str) -> Part:
    study = Study.objects.filter(pk=asked["id"]).first()
    if study is None:
        raise PartError(f"Study {asked['id']} was deleted. Take it out of the report.")
    try:
        found = StudyResultSerializer(studied(question_of(study))).data
    except ValueError as error:
        raise PartError(f"{study.title}: {error}. Mend the study, or take it out.") from None
    unit = unit_of("distance" if "-0 " in study.measure else "time", units)
    content: dict[str, Any] = {
        "kind": "study",
        "title": study.title,
        "question": study.get_kind_display(),
        "sentences": found["sentences"] or [found["trouble"]],
        "cautions": found["cautions"],
        "tables": [_table(table, units) for table in found["tables"]],
        "runs": [
            {
                "start": row["start_local"],
                "setup": row["setup_name"],
                "value": unit.text(row["value"], row["u95"]),
                "dropped": row["dropped"],
            }
            for row in found["runs"]
        ],
        "unit": unit.name,
    }
    drawn = [Picture(pictures.svg(pictures.study(chart, units)), chart["title"]) for chart in found["charts"]]
    content["card"] = _card(study.title, study.get_kind_display(), content["sentences"][0])
    return Part(content, drawn, frozenset(row["id"] for row in found["runs"]))


def _card(title: str, answer: str, word: str) -> dict[str, Any]:
    return {"title": title, "answer": answer, "word": word, "pair": None, "unit": ""}


def _table(table: Mapping[str, Any], units: str) -> dict[str, Any]:
    shown = [unit_of(column["kind"], units) for column in table["columns"]]
    heads = [
        f"{column['label']}, {name}" if (name := unit.name or column["unit"]) else column["label"]
        for column, unit in zip(table["columns"], shown, strict=True)
    ]
    rows = [
        [
            cell["text"] if cell["text"] is not None else unit.text(cell["value"], cell["u95"])
            for cell, unit in zip(row, shown, strict=True)
        ]
        for row in table["rows"]
    ]
    return {"title": table["title"], "heads": heads, "rows": rows}


def _slip(asked: Mapping[str, Any], units: str) -> Part:
    run = Run.objects.select_related("setup__car", "course", "log").filter(pk=asked["id"]).first()
    if run is None:
        raise PartError(f"Run {asked['id']} was deleted. Take its slip out of the report.")
    speed = unit_of("speed", units)
    rows = {(row.name, row.clock): row for row in run.measured.all()}
    lines = []
    for name in (*STRIP_LINES, *SPRINTS[units]):
        rollout, first = rows.get((name, "rollout")), rows.get((name, "first_movement"))
        either = rollout or first
        if either is None:
            continue
        lines.append(
            [
                name,
                SECOND.text(rollout.time_s if rollout else None),
                SECOND.text(first.time_s if first else None),
                speed.text(either.line_speed_mps),
                speed.text(either.trap_speed_mps),
            ]
        )
    air = air_of(run)
    facts = [
        shown_local(run.start_local),
        run.course.name if run.course else "course not noted",
        *([f"{PERCENT.text(run.charge_before_percent)} % charge"] if run.charge_before_percent is not None else []),
        *([_height(density_altitude_m(air.density_kg_m3), unit_of("distance", units))] if air else []),
        *([f"void: {run.void_reason}"] if run.validity == "void" else []),
    ]
    content: dict[str, Any] = {
        "kind": "slip",
        "title": f"{run.setup.car.name}, {run.setup.name}",
        "facts": facts,
        "heads": ["", "rollout, s", "first movement, s", f"at the line, {speed.name}", f"trap, {speed.name}"],
        "lines": lines,
    }
    wanted = next((line for line in reversed(lines) if line[0] in ("1/4 mile", SPRINTS[units][1])), None)
    answer = f"{wanted[0]}  {wanted[1]} s" if wanted else "no full run"
    content["card"] = _card(content["title"], answer, ", ".join(facts[:2]))
    return Part(content, (), frozenset([run.pk]))


def _height(altitude_m: float, unit: Unit) -> str:
    return f"density altitude {unit.of(altitude_m):.0f} {unit.name}".replace("-", "−")


def _all_cars(asked: Mapping[str, Any], units: str) -> Part:
    names = TABLE[units]
    rows = all_cars.rows_of(names, all_cars.version())
    shown = [unit_of("distance" if "-0 " in name else "time", units) for name in names]
    heads = [
        "Car and setup",
        *(f"{name.split('|')[0]}, {unit.name}" for name, unit in zip(names, shown, strict=True)),
    ]
    body = []
    for row in rows:
        values = [row["values"].get(name) for name in names]
        if any(values):
            cells = [
                f"{unit.text(value['mean'], value['u95'])} ({value['n']})" if value else NONE
                for value, unit in zip(values, shown, strict=True)
            ]
            body.append([f"{row['car_name']}: {row['setup_name']}", *cells])
    return Part({"kind": "all cars", "title": "All cars", "tables": [{"title": "", "heads": heads, "rows": body}]})


MADE: Mapping[str, Callable[[Mapping[str, Any], str], Part]] = {
    "text": _text,
    "comparison": _comparison,
    "study": _study,
    "slip": _slip,
    "all cars": _all_cars,
}
