"""A short trial of a cluster: the database node that everybody uses is killed, then a web node; nothing is lost."""

from __future__ import annotations

from pathlib import Path
from unittest import TestCase, skipUnless

from coombe_launcher.trials import cluster

PROVIDER = Path("/usr/lib/galera/libgalera_smm.so")


@skipUnless(PROVIDER.exists(), "needs galera-4")
class ClusterTrialTest(TestCase):
    def test_parts_fail_in_turn_and_nothing_that_was_acknowledged_is_lost(self):
        self.assertEqual(cluster("--minutes=1.3", "--readers=10", "--untimed"), 0)
