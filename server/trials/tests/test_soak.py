"""The soak, in short: it drives, counts and judges as the long one does."""

from __future__ import annotations

import contextlib
import os
from unittest import TestCase, mock

from coombe_launcher.places import SERVER
from recording.tests.recording_case import RecordingCase, environment
from trials.soak import Soak, soak


class JudgementTest(TestCase):
    def soaked(self, **changes) -> Soak:
        facts = {
            "memory_mib": [90.0] * 20 + [100.0] * 80,
            "delays_ms": [5.0] * 100,
            "fixes": 100,
            "pulls": 2,
            "runs": 4,
        }
        return Soak(120, 25, **{**facts, **changes})

    def test_flat_memory_and_every_fix_hold(self):
        self.assertTrue(self.soaked().held)

    def test_growth_a_missed_fix_a_gap_or_a_lost_run_do_not(self):
        for wrong in (
            {"memory_mib": [100.0 + 0.2 * look for look in range(100)]},
            {"missed": 1},
            {"gaps": 1},
            {"runs": 1},
        ):
            with self.subTest(**wrong):
                self.assertFalse(self.soaked(**wrong).held)


class ShortSoakTest(RecordingCase):
    def test_a_short_soak_misses_no_fix(self):
        with mock.patch.dict(os.environ, environment(self.var)), contextlib.chdir(SERVER):
            found = soak(0.3, 25.0)
        self.assertEqual((found.missed, found.gaps), (0, 0))
        self.assertGreater(found.fixes, 25 * 10)
        self.assertGreater(len(found.delays_ms), 100)
