"""Draws which package imports which, of the core and of the server, as docs/imports.svg; fails where an arrow goes up.

PYTHONPATH=core:server .venv/bin/python docs/import_graph.py
"""

from __future__ import annotations

import sys
import tomllib
from collections.abc import Sequence
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

import grimp

DOCS = Path(__file__).resolve().parent
ROW_PX, BOX_WIDTH_PX, BOX_HEIGHT_PX, COLUMN_PX, MARGIN_PX = 44, 132, 26, 460, 28
Arrow = tuple[str, str]


def layers_of(contract: dict[str, Any]) -> list[str]:
    """Packages of a contract from the highest to the lowest, each by its full name."""
    (container,) = contract.get("containers", [""])
    names = [name.strip() for layer in contract["layers"] for name in layer.split("|")]
    return [f"{container}.{name}" if container else name for name in names]


def arrows_between(packages: Sequence[str]) -> list[Arrow]:
    """Pairs of packages of which the first imports the second; tests are left out."""
    graph = grimp.build_graph(*{name.split(".")[0] for name in packages})
    arrows = set()
    for importer in graph.modules:
        owner = _owner(importer, packages)
        if owner is None or ".tests" in importer:
            continue
        imported = (_owner(name, packages) for name in graph.find_modules_directly_imported_by(importer))
        arrows |= {(owner, other) for other in imported if other is not None and other != owner}
    return sorted(arrows)


def _owner(module: str, packages: Sequence[str]) -> str | None:
    return next((name for name in packages if module == name or module.startswith(f"{name}.")), None)


def drawing(columns: Sequence[tuple[str, Sequence[str], Sequence[Arrow]]]) -> str:
    """The packages of each column from top to bottom as boxes, and every import as a curve on the right of them."""
    height = MARGIN_PX * 2 + ROW_PX * max(len(packages) for _, packages, _ in columns)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{COLUMN_PX * len(columns)}" height="{height}" '
        'font-family="sans-serif" font-size="12">'
    ]
    for number, (title, packages, arrows) in enumerate(columns):
        left = MARGIN_PX + number * COLUMN_PX
        middle = {name: MARGIN_PX * 2 + row * ROW_PX for row, name in enumerate(packages)}
        parts.append(f'<text x="{left}" y="{MARGIN_PX}" font-weight="bold">{escape(title)}</text>')
        for importer, imported in arrows:
            begin, end = middle[importer], middle[imported]
            bow = left + BOX_WIDTH_PX + 16 + abs(end - begin) * 0.3
            path = f"M{left + BOX_WIDTH_PX} {begin} Q{bow} {(begin + end) / 2} {left + BOX_WIDTH_PX} {end}"
            color = "#b00020" if end < begin else "#5b6670"
            parts.append(f'<path d="{path}" fill="none" stroke="{color}" stroke-opacity="0.55"/>')
        for name, y in middle.items():
            parts.append(
                f'<rect x="{left}" y="{y - BOX_HEIGHT_PX / 2}" width="{BOX_WIDTH_PX}" height="{BOX_HEIGHT_PX}" '
                'fill="#fbf7ec" stroke="#1d2a33"/>'
                f'<text x="{left + 8}" y="{y + 4}">{escape(name.rsplit(".", 1)[-1])}</text>'
            )
    return "\n".join([*parts, "</svg>"]) + "\n"


def main() -> int:
    """Draw both trees; 1 where an arrow goes up."""
    contracts = tomllib.loads((DOCS.parent / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    columns, upward = [], []
    for title, contract in zip(("core", "server"), (c for c in contracts if c["type"] == "layers"), strict=True):
        packages = layers_of(contract)
        arrows = arrows_between(packages)
        columns.append((title, packages, arrows))
        upward += [f"{a} imports {b}" for a, b in arrows if packages.index(b) < packages.index(a)]
    (DOCS / "imports.svg").write_text(drawing(columns))
    print("\n".join(upward) or f"{sum(len(arrows) for *_, arrows in columns)} arrows, none goes up")
    return 1 if upward else 0


if __name__ == "__main__":
    sys.exit(main())
