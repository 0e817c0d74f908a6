"""One word for one thing: words that were retired appear in no text, no name and no field of the API.

The left side is a pattern of whole words, the right side what stands in its place (docs/glossary.md).
"""

from __future__ import annotations

import ast
import json
import re
import subprocess
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from django.conf import settings

RETIRED = {
    r"set-ups?": "setup",
    r"arms?(?! the| a heads| heads)": "group; Before and After",
    r"(?:runs|days) an? (?:arm|group)": "runs per group",
    r"packs?": "battery",
    r"car bus|bus|bus(?: |-)logs?": "CAN data, CAN log",
    r"masts?": "weather station",
    r"stand-ins?": "simulated car, simulated devices",
    r"planned pulls?": "scheduled run",
    r"run-offs?": "runout",
    r"raw": "uncorrected; unadjusted",
    r"smallest (?:shown|found)": "detectable difference",
    r"like with like": "differences in conditions",
    r"could explain|might explain": "could account for",
    r"it is real|no difference shown|can't tell what made it": "statistically clear; no clear difference",
    r"projected, not driven": "projection",
    r"known of the battery": "battery model",
    r"promis(?:e|es|ed)": "claim, claimed gain",
    r"octets?": "bytes",
    r"spells?": "interval",
    r"(?<!degrees of )freedom": "degrees of freedom",
    r"told": "reported, said",
    r"lies|whence|so many": "is; from where; a number of",
    r"keep what it says now|leave as it was|read it so|make it so|change the facts": "save, cancel, import, edit",
    r"writ(?:e|ten) down|wrote down": "record, save",
    r"metres?|kilometres?|colou?rs?(?<=our)|colours?|centres?|tyres?|behaviours?": "American spelling",
    r"(?:recogn|random|normal|penal|maxim|minim|optim)is(?:e|es|ed|ing|ation)": "American spelling",
}
# Parts of names in code and of fields of the API.
RETIRED_PARTS = {
    "arm",
    "arms",
    "pack",
    "packs",
    "octets",
    "spell",
    "spells",
    "mast",
    "promise",
    "promised",
    "told",
    "said",
}
RETIRED_NAMES = {"set_ups", "way_m", "run_off_m", "smallest_shown", "smallest_found", "matters", "heads_ups"}
WORDS = re.compile("|".join(rf"(?<![\w-])(?:{pattern})(?![\w-])" for pattern in RETIRED), re.IGNORECASE)
PART = re.compile(r"[A-Z]?[a-z0-9]+|[A-Z]+(?![a-z])")
SUFFIXES = (".py", ".ts", ".tsx", ".md", ".html")
# What speaks of an earlier version, or of retired words themselves.
LEFT_OUT = ("/migrations/", "/generated/", "CHANGELOG.md", "test_words.py", "test_upgrading.py", "docs/glossary.md")
VERBS = {"arm", "set_up"}  # to arm a heads-up, to set a machine up
NAMES_OF_OTHERS = {"Promise"}  # JavaScript's


def sources() -> list[Path]:
    """Every file of the project that people read."""
    listed = subprocess.run(
        ["git", "ls-files", "--cached", "--others", "--exclude-standard"],
        cwd=settings.ROOT,
        capture_output=True,
        text=True,
        check=True,
    )
    names = listed.stdout.split()
    kept = (name for name in names if name.endswith(SUFFIXES) and not any(part in f"/{name}" for part in LEFT_OUT))
    return [path for name in kept if (path := settings.ROOT / name).is_file()]


def texts_of(path: Path) -> Iterator[tuple[int, str]]:
    """What a file says to people, by line: strings of several words and docstrings of Python, else every line."""
    source = path.read_text()
    if path.suffix == ".py":
        for node in ast.walk(ast.parse(source)):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and " " in node.value:
                yield from enumerate(node.value.splitlines(), node.lineno)
    else:
        yield from ((number, line) for number, line in enumerate(source.splitlines(), 1) if "import " not in line)


def retired_words(line: str) -> list[str]:
    """The retired words of a line; JavaScript's promises are others."""
    return [found[0] for found in WORDS.finditer(line) if found[0] not in NAMES_OF_OTHERS]


def retired_name(name: str) -> bool:
    """Whether a name, or a part of it, is retired."""
    parts = {part.lower() for part in PART.findall(name)}
    return name not in VERBS and (name in RETIRED_NAMES or bool(parts & RETIRED_PARTS))


def public_names(path: Path) -> Iterator[tuple[int, str]]:
    """Classes, functions, parameters and attributes that a file defines."""
    for node in ast.walk(ast.parse(path.read_text())):
        match node:
            case ast.ClassDef(name=name) | ast.FunctionDef(name=name) | ast.AsyncFunctionDef(name=name):
                yield node.lineno, name
            case ast.arg(arg=name):
                yield node.lineno, name
            case ast.AnnAssign(target=ast.Name(id=name)) | ast.Assign(targets=[ast.Name(id=name)]):
                yield node.lineno, name


def fields_of(schema: object) -> Iterator[str]:
    """Every property, parameter and path of an OpenAPI schema."""
    if isinstance(schema, dict):
        yield from schema.get("properties", {})
        yield from schema.get("paths", {})
        if isinstance(schema.get("in"), str):
            yield schema["name"]
        for value in schema.values():
            yield from fields_of(value)
    elif isinstance(schema, list):
        for value in schema:
            yield from fields_of(value)


class WordsTest(TestCase):
    def test_no_text_has_a_retired_word(self):
        found = [
            f"{path.relative_to(settings.ROOT)}:{number}: {word!r} in {line.strip()[:90]!r}"
            for path in sources()
            for number, line in texts_of(path)
            for word in retired_words(line)
        ]
        self.assertEqual(found, [])

    def test_no_name_has_a_retired_word(self):
        paths = [path for path in sources() if path.suffix == ".py" and "tests" not in path.parts]
        found = [
            f"{path.relative_to(settings.ROOT)}:{number}: {name}"
            for path in paths
            for number, name in public_names(path)
            if retired_name(name)
        ]
        self.assertEqual(found, [])

    def test_no_field_of_the_api_has_a_retired_word(self):
        schema = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        names = {part for name in fields_of(schema) for part in re.split(r"[/{}]", name)}
        self.assertEqual([name for name in sorted(names) if retired_name(name.replace("-", "_"))], [])

    def test_the_lists_find_what_they_are_for(self):
        for text in (
            "runs of an arm",
            "The Set-up",
            "like with like",
            "a car bus",
            "was told",
            "12 metres",
            "the raw time",
        ):
            self.assertTrue(retired_words(text), text)
        for text in ("a package", "Arm the heads-up", "degrees of freedom", "a warm battery", "new Promise(", "setup"):
            self.assertFalse(retired_words(text), text)
        self.assertTrue(retired_name("PackSpell") and retired_name("runs_per_arm") and retired_name("way_m"))
        self.assertFalse(retired_name("battery_temp_c") or retired_name("unpack") or retired_name("alarm"))
