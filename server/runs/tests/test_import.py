"""Importing logs: all of it or nothing, the same bytes once, bad input reported by line or field."""

from __future__ import annotations

import hashlib
from functools import cache
from types import SimpleNamespace
from unittest import mock

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import TestCase, override_settings
from django.urls import reverse
from rest_framework.test import APIClient

from config import again
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs import store
from runs.models import Log, Measured, Run, RunTrace, Split
from runs.tests.factories import SetupFactory, UserFactory


@cache
def log_bytes(name: str = "clean-run", seed: int = 21) -> bytes:
    return write_log(simulate(SCENARIOS[name], seed).trace, "nmea")


def settled(client: APIClient, answer):
    """What an upload came to: 201 with its log, 200 where that was there already, or the status of its refusal."""
    if answer.status_code not in (200, 202):
        return answer
    made = client.get(answer["Location"]).json()
    if made["refusal"]:
        return SimpleNamespace(status_code=made["refusal"]["status"], data=made["refusal"])
    return SimpleNamespace(status_code=200 if made["already"] else 201, data=made)


class ImportTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.client.force_login(UserFactory(), backend="django.contrib.auth.backends.ModelBackend")
        self.setup = SetupFactory()

    def send(self, data: bytes, name: str = "day.nmea", **conditions):
        form = {"file": SimpleUploadedFile(name, data), "setup": self.setup.pk, **conditions}
        return settled(self.client, self.client.post(reverse("log-list"), form, format="multipart"))

    def nothing_stored(self) -> bool:
        return not (Log.objects.exists() or Run.objects.exists())


class GoodLogsTest(ImportTest):
    def test_one_log_becomes_its_runs_with_their_measures(self):
        answer = self.send(log_bytes(), charge_before_percent=95, drive_mode="Sport")
        self.assertEqual(answer.status_code, 201)
        standing, stop = Run.objects.order_by("start_s")
        self.assertEqual((standing.kind, stop.kind), ("standing", "stop"))
        self.assertEqual((standing.charge_before_percent, standing.drive_mode), (95, "Sport"))
        row = standing.measured.get(name="1/4 mile", clock="rollout")
        self.assertGreater(row.time_s, 8)
        self.assertGreater(row.time_u95_s, 0)
        self.assertGreater(standing.split_rows.count(), 10)
        self.assertEqual(answer.data["log"]["run_ids"], [standing.pk, stop.pk])

    def test_what_was_read_at_the_first_and_last_run_is_spread_between_them_and_marked(self):
        read = {"charge_before_percent": 90, "last_charge_before_percent": 86, "battery_temp_before_c": 40}
        self.send(log_bytes("five-runs", 31), **read)
        runs = list(Run.objects.order_by("start_s"))
        self.assertEqual([run.charge_before_percent for run in runs], [90, 89, 88, 87, 86])
        self.assertEqual({run.battery_temp_before_c for run in runs}, {40})
        self.assertEqual({tuple(run.estimated) for run in runs}, {("charge_before_percent",)})
        page = reverse("run-detail", args=[runs[1].pk])
        answer = self.client.patch(page, {"charge_before_percent": 88.5, "revision": 1}, format="json")
        self.assertEqual(answer.json()["estimated"], [])

    def test_passes_that_another_log_has_too_are_asked_about_whatever_their_format(self):
        self.assertEqual(self.send(log_bytes()).data["doubt"], "")
        again = self.send(write_log(simulate(SCENARIOS["clean-run"], 21).trace, "csv"), "day.csv")
        self.assertIn("2 of its runs are passes that day.nmea has too.", again.data["doubt"])
        other = self.send(log_bytes(seed=22), "other.csv", setup=SetupFactory().pk)
        self.assertEqual(other.data["doubt"], "")

    def test_the_bytes_are_kept_unchanged(self):
        data = log_bytes()
        self.send(data)
        log = Log.objects.get()
        self.assertEqual(log.sha256, hashlib.sha256(data).hexdigest())
        with default_storage.open(store.address(log.sha256)) as kept:
            self.assertEqual(kept.read(), data)

    def test_the_same_file_twice_is_recognized(self):
        self.send(log_bytes())
        again = self.send(log_bytes(), name="copy of day.nmea")
        self.assertEqual((again.status_code, again.data["already"]), (200, True))
        self.assertEqual((Log.objects.count(), Run.objects.count()), (1, 2))

    def test_the_same_file_twice_at_once_is_stored_once(self):
        self.send(log_bytes())
        with mock.patch("runs.services._known", side_effect=[None, Log.objects.get()]):
            again = self.send(log_bytes())
        self.assertEqual((again.status_code, again.data["already"]), (200, True))
        self.assertEqual((Log.objects.count(), Run.objects.count()), (1, 2))

    def test_csv_is_recognized_by_content(self):
        data = write_log(simulate(SCENARIOS["clean-run"], 22).trace, "csv")
        self.assertEqual(self.send(data, name="misnamed.nmea").data["log"]["format"], "csv")

    def test_rejected_lines_are_told_by_number(self):
        lines = log_bytes().splitlines(keepends=True)
        lines[10] = b"$GNRMC,garbage*00\r\n"
        answer = self.send(b"".join(lines))
        self.assertEqual(answer.data["log"]["rejections"], [{"line": 11, "reason": "checksum does not match"}])

    def test_the_curve_comes_back_for_the_chart(self):
        run = self.send(log_bytes()).data["log"]["run_ids"][0]
        data = self.client.get(reverse("run-curve", args=[run])).json()
        self.assertEqual(data["curve"]["since_s"][0], 0)
        self.assertGreater(max(data["curve"]["speed_mps"]), 40)
        self.assertEqual(len(data["fixes"]["since_s"]), len(data["fixes"]["altitude_m"]))


class BadLogsTest(ImportTest):
    def assert_refused(self, data: bytes, words: str, name: str = "day.nmea", **conditions):
        answer = self.send(data, name, **conditions)
        self.assertEqual(answer.status_code, 400, answer.data)
        self.assertIn(words, str(answer.data))
        self.assertTrue(self.nothing_stored())

    def test_empty_file(self):
        self.assert_refused(b"", "day.nmea: the file is empty")

    def test_random_bytes(self):
        self.assert_refused(bytes(range(256)) * 9, "no known format")

    def test_a_gpx_sent_as_csv(self):
        self.assert_refused(b'<?xml version="1.0"?>\n<gpx></gpx>', "GPX", name="day.csv")

    def test_every_checksum_wrong(self):
        broken = log_bytes()[:4000].replace(b"*", b"*0")
        self.assert_refused(broken, "no fix could be read")

    def test_csv_without_speed(self):
        self.assert_refused(b"utc,lat\n2026-05-09T09:00:00Z,51\n", "line 1: no speed column")

    @override_settings(MAX_LOG_BYTES=1000)
    def test_larger_than_the_limit(self):
        for overhead in (0, 10**9):  # told by the stated length, and else by the file itself
            with mock.patch("runs.look_api.FORM_OVERHEAD_BYTES", overhead):
                answer = self.send(log_bytes())
            self.assertEqual(answer.status_code, 413)
            self.assertIn("larger than the limit", answer.data["detail"])
        self.assertTrue(self.nothing_stored())

    def test_charge_of_140_percent(self):
        self.assert_refused(log_bytes(), "charge_before_percent", charge_before_percent=140)

    def test_battery_temperature_with_the_unit_left_on_celsius(self):
        self.assert_refused(log_bytes(), "126 °F would be 52 °C", battery_temp_before_c=126)

    def test_a_setup_of_another_car(self):
        other = SetupFactory()
        self.assert_refused(log_bytes(), "is a setup of another car", car=other.car_id)

    def test_a_log_without_a_run_is_kept_and_says_so(self):
        answer = self.send(b"elapsed_s,speed_mps\n0,0\n", day="2026-05-09")
        self.assertEqual((answer.status_code, answer.data["log"]["run_ids"]), (201, []))

    def test_a_name_with_folders_or_300_characters_is_made_plain(self):
        self.send(log_bytes(), name="../../etc/" + "x" * 300 + ".nmea")
        name = Log.objects.get().name
        self.assertLessEqual(len(name), 255)
        self.assertNotIn("/", name)

    def test_a_lost_database_stores_nothing_and_says_so(self):
        gone = mock.patch.object(RunTrace.objects, "create", side_effect=OperationalError("gone"))
        with gone, mock.patch.object(again, "AWAY_PAUSE_S", 0.0):
            answer = self.send(log_bytes())
        self.assertEqual(answer.status_code, 503)
        self.assertIn("Nothing was stored", answer.data["detail"])
        self.assertTrue(self.nothing_stored())
        self.assertFalse(Measured.objects.exists() or Split.objects.exists())

    def test_a_log_that_was_taken_is_not_refused_because_the_database_went_away_for_a_while(self):
        create, calls = RunTrace.objects.create, iter(range(99))

        def sometimes(**values):
            if next(calls) < 3:
                raise OperationalError(2013, "Lost connection to server during query")
            return create(**values)

        with mock.patch.object(RunTrace.objects, "create", sometimes), mock.patch.object(again, "AWAY_PAUSE_S", 0.0):
            answer = self.send(log_bytes())
        self.assertEqual((answer.status_code, Log.objects.count()), (201, 1))
        self.assertTrue(RunTrace.objects.exists())
