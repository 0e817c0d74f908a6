"""A look at a file over the API: what is in it, where it was driven, and nothing stored."""

from __future__ import annotations

from dataclasses import replace

from django.core.files.uploadedfile import SimpleUploadedFile

from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs.models import Import, Log
from runs.services import import_log
from runs.tests.factories import CourseFactory, SetupFactory, UserFactory
from runs.tests.test_can_logs import drive
from runs.tests.test_import import ImportTest, log_bytes
from runs.tests.test_layouts import table


class LookTest(ImportTest):
    def look(self, name: str, data: bytes, **more: object):
        return self.client.post("/api/v1/looks/", {"file": SimpleUploadedFile(name, data), **more}, format="multipart")

    def test_a_log_says_what_is_in_it_and_nothing_is_stored(self):
        answer = self.look("day.nmea", log_bytes("five-runs"))
        self.assertEqual(answer.status_code, 200)
        found = answer.json()
        self.assertEqual((found["kind"], found["format"], found["date_known"]), ("receiver log", "nmea", True))
        self.assertEqual(found["runs"]["standing"], 5)
        self.assertIsNone(found["course"])
        self.assertFalse(Log.objects.exists() or Import.objects.exists())

    def test_where_it_was_driven_is_known_from_earlier_runs_in_its_direction(self):
        out = CourseFactory(heading_deg=68.0)
        trace = simulate(SCENARIOS["clean-run"], 5).trace
        import_log("a.nmea", write_log(trace, "nmea"), SetupFactory(), UserFactory(), {"course": out})
        later = replace(trace, latitude_deg=trace.latitude_deg + 0.003)
        self.assertEqual(self.look("b.nmea", write_log(later, "nmea")).json()["course"], out.pk)
        away = replace(trace, latitude_deg=trace.latitude_deg + 0.03)
        self.assertIsNone(self.look("c.nmea", write_log(away, "nmea")).json()["course"])

    def test_the_same_bytes_and_a_can_log_are_known_for_what_they_are(self):
        log, can_log = drive()
        stored = import_log("day.nmea", log, SetupFactory(), UserFactory(), {}).log
        self.assertEqual(self.look("again.nmea", log).json()["already"], stored.pk)
        self.assertEqual(self.look("day.log", can_log).json()["kind"], "CAN log")

    def test_headings_that_nobody_named_are_asked_for_and_an_unknown_file_says_so(self):
        answer = self.look("drive.csv", table(1))
        self.assertEqual(answer.status_code, 400)
        self.assertIn("v Fahrzeug", answer.json()["headings"])
        answer = self.look("notes.txt", b"hello")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("notes.txt: no known format", str(answer.json()))
