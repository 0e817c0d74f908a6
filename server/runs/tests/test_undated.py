"""Logs without a date, runs that could not be timed, and one pass seen by two receivers."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from unittest import mock

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse

from accounts.models import Role
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from history.models import Action, changes_of
from learning.services import charge_per_run
from runs.models import Log, Run
from runs.passes import Seen, seen_twice
from runs.retiming import retime
from runs.tests.factories import LogFactory, RunFactory, SetupFactory, UserFactory
from runs.tests.test_import import ImportTest, log_bytes
from runs.traces import trace_of

HEAD = "elapsed_s,speed_mps,latitude_deg,longitude_deg"


def undated() -> bytes:
    """A table of a clean run that counts its seconds and knows no day."""
    trace = simulate(SCENARIOS["clean-run"], 21).trace
    columns = (trace.elapsed_s, trace.speed_mps, trace.latitude_deg, trace.longitude_deg)
    return "\n".join(
        [HEAD, *(",".join(f"{value:.7f}" for value in row) for row in zip(*columns, strict=True))]
    ).encode()


class UndatedTest(ImportTest):
    def test_a_log_without_a_date_is_not_taken_until_its_day_is_given(self):
        refused = self.send(undated(), "day.csv")
        self.assertEqual(refused.status_code, 400)
        self.assertIn("no date; say on which day", refused.data["errors"]["day"][0])
        self.assertTrue(self.nothing_stored())
        self.assertEqual(self.send(undated(), "day.csv", day="2026-05-09").status_code, 201)
        log = Log.objects.get()
        self.assertEqual((log.date_known, f"{log.start_utc:%Y-%m-%d}"), (True, "2026-05-09"))
        run = Run.objects.get(kind="standing")
        self.assertEqual(f"{run.start_utc:%Y-%m-%d}", "2026-05-09")
        self.assertNotIn("date_missing", run.flags.values_list("code", flat=True))

    def test_a_day_that_cannot_be_is_refused(self):
        for day in ("1970-01-01", "2999-01-01", "yesterday"):
            self.assertIn("day", self.send(undated(), "day.csv", day=day).data["errors"])

    def test_a_log_that_has_its_date_keeps_it(self):
        self.send(log_bytes(), day="2001-01-01")
        self.assertNotEqual(Log.objects.get().start_utc.year, 2001)

    def old(self) -> Log:
        """One whose day nobody has said yet: in 1970."""
        self.send(undated(), "day.csv", later=True)
        return Log.objects.get()

    def test_one_that_was_stored_without_a_day_gets_it_later(self):
        log = self.old()
        page = reverse("log-detail", args=[log.pk])
        self.assertEqual(self.client.patch(page, {"day": "2026-05-10"}, format="json").status_code, 200)
        run = Run.objects.get(kind="standing")
        self.assertEqual(f"{run.start_utc:%Y-%m-%d}", "2026-05-10")
        self.assertEqual(set(changes_of(run).get(kind="changed").values), {"start_utc"})
        self.assertFalse(run.flags.filter(code="date_missing").exists())
        retime(run.pk)  # its fixes are found where it is now

    def test_a_receiver_whose_clock_showed_local_time_is_corrected(self):
        self.send(log_bytes())
        log = Log.objects.get()
        run = log.runs.first()
        page = reverse("log-detail", args=[log.pk])
        refused = self.client.patch(page, {"day": "2026-05-09", "zone": "Mars/Olympus"}, format="json")
        self.assertIn("no time zone Mars/Olympus", refused.json()["errors"]["zone"][0])
        given = {"day": f"{log.start_utc:%Y-%m-%d}", "zone": "America/Denver"}  # six hours behind in summer
        self.assertEqual(self.client.patch(page, given, format="json").status_code, 200)
        moved = Run.objects.get(pk=run.pk)
        self.assertEqual(moved.start_utc - run.start_utc, timedelta(hours=6))
        self.assertEqual(trace_of(moved).utc_at(0).date(), moved.start_utc.date())
        self.assertEqual(retime(moved.pk), [])
        self.assertEqual(Action.objects.first().title, f"Corrected the date of log {log}")

    def test_one_whose_date_is_not_known_yet_is_taken_and_counts_once_it_is(self):
        self.assertEqual(self.send(undated(), "day.csv", later=True).status_code, 201)
        run = Run.objects.get(kind="standing")
        self.assertFalse(run.log.date_known or run.counts)
        self.client.patch(reverse("log-detail", args=[run.log_id]), {"day": "2026-05-10"}, format="json")
        self.assertTrue(Run.objects.get(pk=run.pk).counts)

    def test_until_then_its_runs_count_in_no_comparison(self):
        self.old()
        run = Run.objects.get(kind="standing")
        other = RunFactory(setup=run.setup, sixty_s=4.0)
        asked = {
            "measure": "0-60 mph",
            "clock": "rollout",
            "groups": [{"name": "a", "runs": [run.pk]}, {"name": "b", "runs": [other.pk]}],
        }
        rows = self.client.post(reverse("comparison-preview"), asked, format="json").json()["runs"]
        self.assertIn("no date", next(row for row in rows if row["id"] == run.pk)["dropped"])


class UntimedTest(ImportTest):
    def test_a_run_that_could_not_be_timed_is_listed_with_its_log(self):
        with mock.patch("coombe_core.analysis.time_standing", side_effect=np.linalg.LinAlgError):
            answer = self.send(log_bytes())
        (untimed,) = answer.data["log"]["untimed"]
        self.assertEqual(untimed["kind"], "standing")
        self.assertIn("failed", untimed["reason"])
        self.assertEqual([run.kind for run in Run.objects.all()], ["stop"])


class DbcTest(ImportTest):
    def test_only_an_administrator_imports_with_a_dbc(self):
        dbc = SimpleUploadedFile("own.dbc", b"x")
        self.assertIn("administrator", self.send(log_bytes(), dbc=dbc).data["errors"]["dbc"][0])
        self.client.force_login(
            UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend"
        )
        self.assertEqual(self.send(log_bytes(), dbc=SimpleUploadedFile("own.dbc", b"x")).status_code, 201)


AT = datetime(2026, 5, 9, 9, tzinfo=UTC)


class PassesTest(TestCase):
    def test_the_quicker_receiver_s_run_counts(self):
        rows = [
            Seen(1, 7, "standing", 1, AT, 10.0),
            Seen(2, 7, "standing", 2, AT + timedelta(seconds=0.4), 25.0),
            Seen(3, 7, "standing", 1, AT + timedelta(minutes=5), 10.0),
            Seen(4, 7, "stop", 1, AT + timedelta(seconds=0.4), 10.0),
            Seen(5, 8, "standing", 3, AT, 25.0),
        ]
        self.assertEqual(seen_twice(rows), {1: 2})

    def test_runs_of_one_instant_whose_times_differ_by_more_than_receivers_do_are_two(self):
        one, other = (
            Seen(n, 7, "standing", n, AT, 25.0, time_s=time, time_u95_s=0.01) for n, time in ((1, 4.00), (2, 4.10))
        )
        self.assertEqual(seen_twice([one, other]), {})
        self.assertEqual(seen_twice([one, replace(other, time_s=4.02)]), {2: 1})
        self.assertEqual(seen_twice([one, replace(other, time_s=4.05)]), {2: 1})  # one smooths, the other does not

    def test_the_receiver_that_the_setup_names_counts_however_slow(self):
        slow = Seen(1, 7, "standing", 1, AT, 10.0, "Nail 3", "Nail 3")
        quick = Seen(2, 7, "standing", 2, AT, 25.0, "Oak 1", "Nail 3")
        self.assertEqual(seen_twice([slow, quick]), {2: 1})
        unnamed = [replace(each, receiver="") for each in (slow, quick)]
        self.assertEqual(seen_twice(unnamed), {1: 2})

    def test_two_runs_of_one_log_are_never_one_pass(self):
        rows = [Seen(1, 7, "stop", 1, AT, 25.0), Seen(2, 7, "stop", 1, AT + timedelta(seconds=1), 25.0)]
        self.assertEqual(seen_twice(rows), {})

    def test_one_pass_counts_once_in_a_comparison_and_in_what_is_learned(self):
        setup = SetupFactory()
        person = UserFactory()
        for minutes, charge in ((0, 95), (5, 94), (10, 93), (15, 92)):
            start = AT + timedelta(minutes=minutes)
            for log, rate in (("a", 25), ("b", 10)):
                RunFactory(
                    setup=setup,
                    log=LogFactory(name=log, rate_hz=rate),
                    start_utc=start + timedelta(seconds=0.3 * (log == "b")),
                    charge_before_percent=charge,
                    sixty_s=4.0 + minutes / 1000 + 0.004 * (log == "b"),
                )
        self.assertAlmostEqual(charge_per_run(setup.car).value, 1.0)
        runs = list(Run.objects.order_by("start_utc").values_list("pk", flat=True))
        self.client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        asked = {
            "measure": "0-60 mph",
            "clock": "rollout",
            "groups": [{"name": "a", "runs": runs[:4]}, {"name": "b", "runs": runs[4:]}],
        }
        answer = self.client.post(reverse("comparison-preview"), asked, content_type="application/json").json()
        self.assertEqual([group["n"] for group in answer["groups"]], [2, 2])
        dropped = [row["dropped"] for row in answer["runs"] if row["dropped"]]
        self.assertEqual(len(dropped), 4)
        self.assertIn("it counts once", dropped[0])
