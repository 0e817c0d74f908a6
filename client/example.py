"""Two folders of logs, before and after a change, to a verdict. Run it a piece at a time, or as it stands:

COOMBE=http://127.0.0.1:8642 TOKEN=coombe_... python example.py BEFORE_FOLDER AFTER_FOLDER
"""

# %% Who asks, and where
import os
import sys
from pathlib import Path

from coombe_client import Coombe

coombe = Coombe(os.environ["COOMBE"], os.environ["TOKEN"])
before, after = Path(sys.argv[1]), Path(sys.argv[2])

# %% A car and its two setups
car = coombe.add_car("Corvina", drive_layout="all", test_mass_kg=2150)
setups = {
    "before": coombe.add_setup(car, "as delivered", since="2026-05-01"),
    "after": coombe.add_setup(car, "new software", since="2026-05-08", change="software update"),
}

# %% Send both folders, then wait until every run is timed
uploads = [
    *coombe.upload_folder(before, setups["before"], charge_before_percent=90),
    *coombe.upload_folder(after, setups["after"], charge_before_percent=88),
]
for upload in coombe.wait(uploads):
    print(f"{upload.name}: {upload.state}, {upload.runs_timed} runs {upload.refusal or ''}".rstrip())

# %% Every time to 60 mph with its 95 % half-width
groups: dict[str, list[int]] = {}
for side, setup in setups.items():
    for run in coombe.runs(setup=setup.id, kind="standing"):
        found = run.measured("0-60 mph", "rollout")
        if found and found.time_s and found.time_u95_s:
            groups.setdefault(side, []).append(run.id)
            print(f"{side}: {found.time_s:.3f} ± {found.time_u95_s:.3f} s")

# %% Did it change anything?
comparison = coombe.save_comparison("Did the software help?", "0-60 mph", "rollout", groups)
print(comparison.verdicts[0].sentence)

# %% What somebody else needs to work it out again: ./coombe verify comparison.zip
print(coombe.download_package(comparison, "comparison.zip"))
