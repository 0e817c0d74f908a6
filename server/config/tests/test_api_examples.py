"""The examples of docs/api.md, run as they are printed against a web server."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
import tempfile
import textwrap
from pathlib import Path

from django.conf import settings
from django.test import TransactionTestCase

from accounts import tokens
from accounts.models import Role
from cars.models import Setup
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from history.models import Change
from recording.tests.recording_case import environment
from runs.models import Run
from runs.tests.factories import UserFactory
from trials.served import Web

PAGE = settings.ROOT / "docs" / "api.md"


def examples(language: str) -> list[str]:
    """The page's fenced blocks of a language, in order."""
    found = re.findall(rf"^( *)```{language}\n(.*?)^\1```$", PAGE.read_text(), re.DOTALL | re.MULTILINE)
    return [textwrap.dedent(block) for _, block in found]


class ApiExamplesTest(TransactionTestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        web = Web(environment(self.folder / "var"))
        self.addCleanup(web.stop)
        _, token = tokens.make_token(None, UserFactory(role=Role.TESTER), "examples", Role.TESTER)
        self.env = {**os.environ, "COOMBE": f"http://127.0.0.1:{web.port}", "TOKEN": token}
        (self.folder / "before.nmea").write_bytes(write_log(simulate(SCENARIOS["five-runs"], 11).trace, "nmea"))

    def run_one(self, *command: str) -> str:
        done = subprocess.run(command, cwd=self.folder, env=self.env, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, f"{command[-1]}\n{done.stdout}\n{done.stderr}")
        return done.stdout

    def test_every_example_does_what_it_says(self):
        shells, scripts = examples("sh"), examples("python")
        self.assertEqual(len(shells) + len(scripts), 11)  # ten, and the function that those in Python share
        answers = []
        for number, shell in enumerate(shells):
            answers.append(json.loads(self.run_one("bash", "-euc", shell)))
            if number == 1:
                self.env["CAR"] = str(answers[-1]["id"])
            if number == 2:
                self.env["SETUP"] = str(answers[-1]["id"])
        self.assertEqual(answers[0]["count"], 0)
        self.assertEqual(str(Setup.objects.get().pk), self.env["SETUP"])
        listed = answers[4]["results"]
        self.assertEqual(len(listed), Run.objects.count())
        shown = self.run_one(sys.executable, "-c", "\n".join(scripts))
        self.assertEqual(shown.count("±"), 5 + 1)  # five runs, and the sentence of the comparison
        self.assertRegex(shown, r"0-60 mph \(rollout\): no clear difference")
        (change,) = (each for each in Change.objects.filter(model="runs.run") if "charge_before_percent" in each.values)
        changed = Run.objects.get(pk=change.row)
        self.assertEqual((changed.charge_before_percent, changed.validity), (91, "valid"))
