"""Tables whose headings Coombe does not know: named once, remembered, and nothing stored before."""

from __future__ import annotations

import json

from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs.models import Log, TableLayout
from runs.tests.test_import import ImportTest

LAYOUT = {"Zeit [s]": "elapsed_s", "v Fahrzeug": "speed_kmh"}


def table(seed: int) -> bytes:
    """A clean run under headings of somebody's own, with decimal commas."""
    trace = simulate(SCENARIOS["clean-run"], seed).trace
    rows = zip(trace.elapsed_s.tolist(), trace.speed_mps.tolist(), strict=True)
    lines = [f"{elapsed_s:.3f};{speed * 3.6:.4f};x".replace(".", ",") for elapsed_s, speed in rows]
    return "\n".join(["Zeit [s];v Fahrzeug;Kanal 3", *lines]).encode()


class LayoutsTest(ImportTest):
    def test_unknown_headings_are_asked_for_and_nothing_is_stored(self):
        answer = self.send(table(1), "drive.csv")
        self.assertEqual(answer.status_code, 400)
        self.assertEqual(answer.data["headings"], ["Zeit [s]", "v Fahrzeug", "Kanal 3"])
        self.assertTrue(self.nothing_stored())

    def test_a_layout_is_used_and_remembered_for_the_next_file(self):
        first = self.send(table(1), "drive.csv", layout=json.dumps(LAYOUT), day="2026-05-09")
        self.assertEqual((first.status_code, len(first.data["log"]["run_ids"])), (201, 2))
        again = self.send(table(2), "drive-2.csv", day="2026-05-09")
        self.assertEqual(again.status_code, 201)
        self.assertEqual((Log.objects.count(), TableLayout.objects.count()), (2, 1))

    def test_a_layout_that_names_nothing_known_is_refused(self):
        for layout in ('{"v Fahrzeug": "warp"}', '["speed_kmh"]', "nonsense"):
            self.assertEqual(self.send(table(1), "drive.csv", layout=layout).status_code, 400)
        self.assertEqual(TableLayout.objects.count(), 0)
