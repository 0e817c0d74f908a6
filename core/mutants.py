"""Changes the core a token at a time, in a copy, and shows the changes that no test notices.

PYTHONPATH=core .venv/bin/python core/mutants.py clocks interval

An hour for all; those that are known to stay are listed in `docs/development.md`.
"""

from __future__ import annotations

import argparse
import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

CORE = Path(__file__).parent
TOOLS = Path(sys.executable).parent
# Joined types are never evaluated, what a frozen class forbids nobody tries, and equal words are one object.
LEFT_OUT = [
    "core/ReplaceBinaryOperator_BitOr_.*",
    "core/RemoveDecorator",
    "core/ReplaceComparisonOperator_.*_Is",
    "core/ReplaceComparisonOperator_.*_IsNot",
]
CONFIG = """
[cosmic-ray]
module-path = "{module}"
timeout = 120.0
excluded-modules = []
test-command = "{python} -W ignore -m unittest -f {tests}"
[cosmic-ray.distributor]
name = "local"
[cosmic-ray.filters.operators-filter]
exclude-operators = {left_out}
"""


STATISTICS = "coombe_core/comparing/statistics"
# What is changed, and the tests that are to notice: few and quick ones, since they run once a change.
MODULES = {
    "coombe_core/timing/clocks.py": ("test_clocks",),
    f"{STATISTICS}/checks.py": ("test_scatter",),
    f"{STATISTICS}/contrast.py": ("test_weighing",),
    f"{STATISTICS}/interval.py": ("test_interval",),
    f"{STATISTICS}/layout.py": ("test_weighing",),
    f"{STATISTICS}/multiple.py": ("test_scatter",),
    f"{STATISTICS}/permutation.py": ("test_weighing",),
    f"{STATISTICS}/power.py": ("test_scatter",),
    f"{STATISTICS}/samples.py": ("test_scatter",),
    f"{STATISTICS}/scatter.py": ("test_scatter",),
}


def survivors(module: str, tests: Sequence[str]) -> list[str]:
    """Run every change of a module; a line that counts them, and one for each that no test noticed."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "core"
        shutil.copytree(CORE, copy, ignore=shutil.ignore_patterns("__pycache__", ".hypothesis"))
        config, session = Path(folder) / "config.toml", Path(folder) / "session.sqlite"
        names = " ".join(tests)
        config.write_text(CONFIG.format(module=module, python=sys.executable, tests=names, left_out=LEFT_OUT))
        _run(["cosmic-ray", "init", config, session], copy)
        _run(["cr-filter-operators", session, config], copy)
        _run(["cosmic-ray", "baseline", config], copy)
        _run(["cosmic-ray", "exec", config, session], copy)
        lines = _run(["cosmic-ray", "dump", session], copy).splitlines()
    done = [(work["mutations"][0], result) for work, result in map(json.loads, lines) if result]
    done = [(change, result) for change, result in done if result["worker_outcome"] == "normal"]
    left = [(change, result) for change, result in done if result["test_outcome"] == "survived"]
    left.sort(key=lambda pair: pair[0]["start_pos"])
    listed = [f"  {change['start_pos'][0]}: {_changed(result['diff'])}" for change, result in left]
    return [f"{module}: {len(done)} changes, {len(left)} not noticed", *listed]


def _changed(diff: str) -> str:
    """The changed line, before and after."""
    parts = [line[1:].strip() for line in diff.splitlines() if line[:1] in "+-" and line[:3] not in ("+++", "---")]
    return "  ->  ".join(parts)


def _run(command: list[str | Path], folder: Path) -> str:
    paths = os.pathsep.join(map(str, (folder, folder / "tests")))
    env = os.environ | {"PYTHONPATH": paths, "OPENBLAS_NUM_THREADS": "1"}
    tool, *given = map(str, command)
    done = subprocess.run([str(TOOLS / tool), *given], cwd=folder, env=env, text=True, capture_output=True, check=False)
    if done.returncode:
        raise SystemExit(f"{' '.join([tool, *given])} failed:\n{done.stdout}{done.stderr}")
    return done.stdout


def main() -> None:
    """Change what is named, two modules at a time."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("modules", nargs="*", help="such as clocks; all of them otherwise")
    named = parser.parse_args().modules
    work = [each for each in MODULES.items() if not named or Path(each[0]).stem in named]
    with ThreadPoolExecutor(2) as pool:
        for lines in pool.map(lambda each: survivors(*each), work):
            print("\n".join(lines), flush=True)


if __name__ == "__main__":
    main()
