"""A short trial of a cluster: the database node that everybody uses is killed, then what time is left for."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from unittest import TestCase, skipUnless

PROVIDER = Path("/usr/lib/galera/libgalera_smm.so")
TRIAL = ("cluster-trial", "--minutes=1.2", "--readers=10", "--untimed")


@skipUnless(PROVIDER.exists(), "needs galera-4")
class ClusterTrialTest(TestCase):
    def test_parts_fail_in_turn_and_nothing_that_was_acknowledged_is_lost(self):
        ended = subprocess.run([sys.executable, "-m", "coombe_launcher", *TRIAL], capture_output=True, text=True)
        self.assertEqual(ended.returncode, 0, f"{ended.stdout}\n{ended.stderr[-6000:]}")
        self.assertIn("database 1 is killed", ended.stdout)
