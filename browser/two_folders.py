"""Two folders of logs, before and after a change, and what the command says of them."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from datetime import timedelta
from pathlib import Path
from typing import Any

from coombe_core.cli.command import main
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate


def write_logs(folder: Path, before: int = 2, after: int = 3) -> dict[str, list[Path]]:
    """As many logs before and after, the third one CSV; five pulls each."""
    logs: dict[str, list[Path]] = {"before": [], "after": []}
    for group, scenario, count in (("before", "five-runs", before), ("after", "after-update", after)):
        for index in range(count):
            drive = SCENARIOS[scenario]
            began = drive.receiver.start_utc + timedelta(hours=index + 2 * (group == "after"))
            drive = replace(drive, receiver=replace(drive.receiver, start_utc=began))
            trace = simulate(drive, 40 + index).trace
            as_csv = group == "after" and index == 2
            path = folder / f"{group}-{index}.{'csv' if as_csv else 'nmea'}"
            path.write_bytes(write_log(trace, "csv") if as_csv else write_log(trace, "nmea"))
            logs[group].append(path)
    return logs


def by_command(logs: dict[str, list[Path]]) -> Any:
    """What the command says of the same logs."""
    out = io.StringIO()
    paths = {group: [str(path) for path in paths] for group, paths in logs.items()}
    main(
        [*("compare", "--json", "--measure", "0-60 mph", "--clock", "rollout"), "--before", *paths["before"], "--after"]
        + paths["after"],
        out,
    )
    return json.loads(out.getvalue())
