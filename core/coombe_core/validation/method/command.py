"""`coombe method`: trials of the comparison on simulated seasons, written into the method page; 1 on a miss."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from coombe_core.validation.method.heat import heats
from coombe_core.validation.method.studies import studies
from coombe_core.validation.method.tables import Line, adjustments, characters, errors, finds
from coombe_core.validation.method.values import changed, unchanged

SEED = 771_203  # nothing was developed on it; choose another once it has led to a change
BEGIN, END = "<!-- made by ./coombe method: {} -->", "<!-- end of {} -->"
TITLES = {
    "errors": ("Nothing was changed: called different", "asked: at most 6.5 %"),
    "finds": ("A change of grip and power of 1.5 times what the design shows: found", "asked: at least 90 %"),
    "characters": ("A change of three times what the design shows: rightly named", "asked: at least 90 %"),
    "adjustments": (
        "Groups of 15 to 33 points of charge apart, a sweep of five runs over 40 points",
        "asked: 80 %; 92-98 %",
    ),
    "unchanged": ("Bare values of seasons of many kinds, nothing changed: called different", "asked: at most 6.5 %"),
    "changed": ("Bare values, a true gain of 1.5 %: found", "asked: 75 %, 45 %, 60 %; slower is the wrong sign"),
    "heats": ("Battery temperature at the first run, a battery of core and surface", "asked: 92-99 %"),
    "studies": ("Studies", "asked: at most 5 %, at least 90 %, 92-98 %, and what was worked out beforehand"),
}


def main(arguments: list[str] | None = None) -> int:
    """Run the trials and write their tables between the marks of the page; 1 where a target does not hold."""
    parser = argparse.ArgumentParser(prog="coombe method", description="How far a comparison can be trusted.")
    parser.add_argument("--cases", type=int, default=2000, help="pairs without a change; the other trials take a share")
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--page", type=Path, default=Path("docs/method.md"))
    parser.add_argument("--only", choices=TITLES, help="make this table alone")
    options = parser.parse_args(arguments)
    share = max(options.cases // 4, 1)
    text, missed = options.page.read_text(), []
    for name, table, count in (
        ("errors", errors, options.cases),
        ("finds", finds, share),
        ("characters", characters, share),
        ("adjustments", adjustments, share),
        ("unchanged", unchanged, options.cases // 2),
        ("changed", changed, share),
        ("heats", heats, share),
        ("studies", studies, options.cases // 2),
    ):
        if options.only not in (None, name):
            continue
        lines = table(count, options.seed)
        print(_table(name, lines, options.seed), flush=True)
        text = _with(text, name, _table(name, lines, options.seed))
        missed += [line.what for line in lines if not line.holds]
    options.page.write_text(text)
    print("\n".join(missed) or "every target holds")
    return 1 if missed else 0


def _with(page: str, name: str, table: str) -> str:
    """The page with a table between its marks."""
    head, rest = page.split(BEGIN.format(name))
    return f"{head}{BEGIN.format(name)}\n{table}\n{END.format(name)}{rest.split(END.format(name))[1]}"


def _table(name: str, lines: Sequence[Line], seed: int) -> str:
    title, asked = TITLES[name]
    rows = [f"| {line.what} | {line.cases} | {100 * line.share:.1f} % | {line.remark} |" for line in lines]
    return "\n".join(
        [f"**{title}** ({asked}; seed {seed})", "", "| | cases | share | |", "| --- | --- | --- | --- |", *rows]
    )


if __name__ == "__main__":
    sys.exit(main())
