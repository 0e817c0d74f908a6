"""`coombe verify`: what of a data package comes out again, line by line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TextIO

from coombe_core import __version__
from coombe_core.packages.package import PackageError
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from coombe_core.wording.package import summary

ALL_AGREE, SOME_DIFFER, FAILED = 0, 1, 2


def verified(path: Path, as_json: bool, out: TextIO, err: TextIO) -> int:
    """Print what was checked; the exit code is 0 where all agrees, 1 where something differs, 2 for no package."""
    try:
        with path.open("rb") as source:
            opened = read_package(source)
    except OSError as error:
        print(f"{path}: {error.strerror}", file=err)
        return FAILED
    except PackageError as error:
        print(f"{path}: {error}", file=err)
        return FAILED
    outcomes: list[str] = []
    for each in verify(opened):
        outcomes.append(each.outcome)
        line = f"{each.outcome}: {each.what}" + (f": {each.detail}" if each.detail else "")
        print(json.dumps(vars(each)) if as_json else line, file=out)
    agree, differ = outcomes.count("agrees"), outcomes.count("differs")
    if not as_json:
        made_with = opened.package.about.core_version
        print(summary(agree, differ, len(outcomes) - agree - differ, made_with, __version__), file=out)
    return SOME_DIFFER if differ else ALL_AGREE
