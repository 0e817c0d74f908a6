"""Tables whose headings Coombe does not know: named once, remembered, and nothing stored before."""

from __future__ import annotations

import json

from django.urls import reverse

from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs.layouts import remembered
from runs.models import Log, TableLayout
from runs.tests.test_import import ImportTest

LAYOUT = {"Zeit [s]": "elapsed_s", "v Fahrzeug": "speed_kmh"}
CORRECTED = {"Zeit [s]": "elapsed_s", "v Fahrzeug": "speed_mph", "Kanal 3": "satellites"}


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

    def test_columns_that_were_named_wrong_are_corrected_for_the_next_file_and_set_back(self):
        self.send(table(1), "drive.csv", layout=json.dumps(LAYOUT), day="2026-05-09")
        (kept,) = self.client.get(reverse("table-layout-list")).json()["results"]
        self.assertEqual([column["meaning"] for column in kept["columns"]], ["elapsed_s", "speed_kmh", ""])
        page = reverse("table-layout-detail", args=[kept["id"]])
        columns = [{"heading": heading, "meaning": meaning} for heading, meaning in CORRECTED.items()]
        answer = self.client.patch(page, {"columns": columns, "revision": 1}, format="json")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(remembered(table(2)), CORRECTED)
        self.client.post(reverse("action-undo", args=[answer["Coombe-Action"]]))
        self.assertEqual(remembered(table(2)), LAYOUT)

    def test_columns_without_a_speed_or_of_another_table_are_refused(self):
        self.send(table(1), "drive.csv", layout=json.dumps(LAYOUT), day="2026-05-09")
        page = reverse("table-layout-detail", args=[TableLayout.objects.get().pk])
        for columns, said in (
            ([("Zeit [s]", "elapsed_s"), ("v Fahrzeug", ""), ("Kanal 3", "")], "the time and which the speed"),
            ([("Zeit [s]", "elapsed_s"), ("v Fahrzeug", "speed_kmh")], "no others"),
        ):
            named = [{"heading": heading, "meaning": meaning} for heading, meaning in columns]
            answer = self.client.patch(page, {"columns": named, "revision": 1}, format="json")
            self.assertIn(said, answer.json()["errors"]["columns"][0])
