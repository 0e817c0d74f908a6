"""Importing a log with the CAN log of the same drive: aligned, kept, drawn on, or refused with nothing stored."""

from __future__ import annotations

from functools import cache

from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from accounts.models import Role
from coombe_core.formats import write_log
from coombe_core.simulating.can import frames, write_can_log
from coombe_core.simulating.car import SimulatedCar
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from runs import store
from runs.models import CanLog, Log, Run
from runs.tests.factories import UserFactory
from runs.tests.test_import import ImportTest, log_bytes

CLOCK_S = 5000.0  # the CAN log's own clock at the start of the drive


@cache
def drive(seed: int = 31, charge_percent: float = 83.0, battery_temp_c: float = 47.0) -> tuple[bytes, bytes]:
    """A receiver's log and the candump log of the same drive."""
    made = simulate(SCENARIOS["clean-run"], seed)
    sent = frames(made.motion, SimulatedCar(), CLOCK_S, charge_percent, battery_temp_c)
    return write_log(made.trace, "nmea"), write_can_log("candump", sent)


class CanDataTest(ImportTest):
    def send_both(self, log: bytes, can_log: bytes, **conditions):
        return self.send(log, can_log=SimpleUploadedFile("drive.log", can_log), **conditions)

    def test_the_clocks_are_brought_together_and_the_offset_is_told(self):
        answer = self.send_both(*drive())
        self.assertEqual(answer.status_code, 201, answer.data)
        report = answer.data["log"]["can_log"]
        self.assertEqual((report["name"], report["format"], report["rejected"]), ("drive.log", "candump", 0))
        self.assertAlmostEqual(report["offset_s"], -CLOCK_S, delta=0.1)
        self.assertLess(report["offset_u95_s"], 0.1)
        self.assertAlmostEqual(report["over_reading"], 1.03, 2)
        self.assertTrue(default_storage.exists(store.address(CanLog.objects.get().sha256)))

    def test_charge_battery_temperature_and_mode_come_from_can_data(self):
        self.send_both(*drive())
        run = Run.objects.get(kind="standing")
        self.assertEqual((run.charge_before_percent, run.battery_temp_before_c, run.outside_temp_c), (83.0, 47.0, 15.0))
        self.assertEqual((run.charge_after_percent, run.battery_temp_after_c), (83.0, 47.0))
        self.assertTrue(run.drive_mode)

    def test_what_a_person_wrote_down_stands(self):
        self.send_both(*drive(), charge_before_percent=81, drive_mode="Sprint")
        run = Run.objects.get(kind="standing")
        self.assertEqual((run.charge_before_percent, run.drive_mode), (81, "Sprint"))

    def test_the_battery_s_power_stands_beside_that_at_the_wheels(self):
        self.send_both(*drive())
        run = Run.objects.get(kind="standing")
        answer = self.client.get(reverse("run-power", args=[run.pk])).data
        self.assertGreater(answer["battery"]["peak_kw"], 200)
        self.assertEqual(len(answer["battery"]["speed_mps"]), len(answer["battery"]["power_kw"]))
        stop = Run.objects.get(kind="stop")
        self.assertIsNone(self.client.get(reverse("run-power", args=[stop.pk])).data["battery"])

    def test_the_pedal_makes_the_brake_onset_surer(self):
        log, can_log = drive()
        self.send_both(log, can_log)
        with_pedal = Run.objects.get(kind="stop").measured.exclude(onset_distance_u95_m=None)
        surer = {row.name: row.onset_distance_u95_m for row in with_pedal}
        Log.objects.all().delete()
        self.send(log)
        plain = {row.name: row.onset_distance_u95_m for row in Run.objects.get(kind="stop").measured.all()}
        for name, u95_m in surer.items():
            self.assertLess(u95_m, plain[name])

    def test_the_sheet_says_which_can_log_it_rests_on(self):
        self.send_both(*drive())
        run = Run.objects.get(kind="standing")
        self.assertEqual(self.client.get(reverse("run-detail", args=[run.pk])).data["can_log"]["name"], "drive.log")

    def test_a_run_without_can_data_has_none(self):
        self.send(log_bytes())
        run = Run.objects.get(kind="standing")
        self.assertIsNone(self.client.get(reverse("run-detail", args=[run.pk])).data["can_log"])
        self.assertIsNone(self.client.get(reverse("run-power", args=[run.pk])).data["battery"])

    def test_another_drive_is_refused_and_nothing_is_stored(self):
        gentle = simulate(SCENARIOS["stop-series"], 4)
        can_log = write_can_log("candump", frames(gentle.motion, SimulatedCar(), 0.0, 80.0, 40.0))
        answer = self.send_both(drive()[0], can_log)
        self.assertEqual(answer.status_code, 400)
        self.assertIn("drive.log: the CAN log", answer.data["errors"]["can_log"][0])
        self.assertTrue(self.nothing_stored())

    def test_a_file_that_is_no_can_log_is_refused_by_its_name(self):
        answer = self.send_both(drive()[0], b"not a CAN log")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("drive.log: no CAN log", answer.data["errors"]["can_log"][0])
        self.assertTrue(self.nothing_stored())

    def test_a_dbc_that_can_t_be_read_is_refused(self):
        log, can_log = drive()
        admin = UserFactory(role=Role.ADMINISTRATOR)
        self.client.force_login(admin, backend="django.contrib.auth.backends.ModelBackend")
        answer = self.send_both(log, can_log, dbc=SimpleUploadedFile("own.dbc", b"nonsense"))
        self.assertEqual(answer.status_code, 400)
        self.assertIn("DBC", answer.data["errors"]["can_log"][0])

    def test_a_can_log_for_a_log_that_is_there_already_is_not_lost_in_silence(self):
        log, can_log = drive()
        self.send(log)
        answer = self.send_both(log, can_log)
        self.assertEqual(answer.status_code, 400)
        self.assertIn("already", answer.data["errors"]["can_log"][0])
