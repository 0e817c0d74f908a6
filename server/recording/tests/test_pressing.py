"""Keys of a strip screen: each acts once, each can be undone, and a refused one changes nothing."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta

from django.urls import reverse

from accounts.models import Role
from days.models import ScheduledRun
from days.services import lay_out
from history.models import changes_of
from learning.services import charge_per_run
from plans.models import Group, Plan
from plans.tests.asking import FIRST, STATE, PlanTest
from recording.models import Device, Press, Recorder, Recording
from runs.models import Run
from runs.services import change_run
from runs.tests.factories import CourseFactory, LogFactory, RunFactory, SetupFactory, UserFactory


class StripTest(PlanTest):
    def setUp(self):
        super().setUp()
        plan = Plan.objects.create(
            car=self.car, course=self.course, question="Which?", created_by=self.person, runs_per_group=2
        )
        for position, name in enumerate(("before", "after")):
            Group.objects.create(plan=plan, name=name, position=position, setup=self.setup)
        self.day_ = lay_out(plan, {"first_run_at": FIRST, "known_at": FIRST - timedelta(hours=9), **STATE})
        self.recorder = Recorder.objects.create(name="Car one", setup=self.setup, day=self.day_, started_by=self.person)
        log = LogFactory(sha256=None)
        Recording.objects.create(recorder=self.recorder, log=log, began_at=FIRST)
        self.run_ = RunFactory(log=log, setup=self.setup, sixty_s=3.9)
        self.step = self.day_.scheduled_runs.first()
        ScheduledRun.objects.filter(pk=self.step.pk).update(state="done", run=self.run_)

    def press(self, action: str, code: int = 200, key: uuid.UUID | None = None, **more) -> dict:
        given = {"id": str(key or uuid.uuid4()), "action": action, "pressed_at": datetime.now(UTC).isoformat(), **more}
        answer = self.post("recorder-press", given, self.recorder.pk)
        self.assertEqual(answer.status_code, code, answer.content)
        return answer.json()

    def state(self) -> tuple:
        run = Run.objects.get(pk=self.run_.pk)
        step = ScheduledRun.objects.get(pk=self.step.pk)
        return run.validity, run.void_reason, run.decided, step.state, step.run_id == run.pk


class PressTest(StripTest):
    def test_a_voided_run_opens_its_step_again_and_undo_closes_it(self):
        strip = self.press("void", run=self.run_.pk, reason="jumped")
        self.assertEqual(self.state(), ("void", "jumped", True, "open", False))
        self.assertEqual((strip["next"]["id"], strip["undoable"]["action"]), (self.step.pk, "void"))
        strip = self.press("undo")
        self.assertEqual(self.state(), ("valid", "", False, "done", True))
        self.assertIsNone(strip["undoable"])

    def test_keeping_a_voided_run_fills_the_step_it_came_from(self):
        self.press("void", run=self.run_.pk, reason="traffic")
        self.press("keep", run=self.run_.pk)
        self.assertEqual(self.state(), ("valid", "", True, "done", True))
        self.press("undo")
        self.assertEqual(self.state(), ("void", "traffic", True, "open", False))
        self.press("undo")
        self.assertEqual(self.state(), ("valid", "", False, "done", True))

    def test_the_same_key_sent_twice_acts_once(self):
        key = uuid.uuid4()
        self.press("skip", key=key)
        self.press("skip", key=key)
        self.assertEqual(self.day_.scheduled_runs.filter(state="skipped").count(), 1)
        self.assertEqual(Press.objects.count(), 1)
        self.press("undo")
        self.assertEqual(self.day_.scheduled_runs.filter(state="skipped").count(), 0)

    def test_conditions_are_written_down_and_undone(self):
        self.press("conditions", run=self.run_.pk, conditions={"charge_before_percent": 91, "revision": 1})
        self.assertEqual(Run.objects.get(pk=self.run_.pk).charge_before_percent, 91)
        self.assertEqual(changes_of(self.run_).get().action.person, self.person)
        self.press("undo")
        self.assertIsNone(Run.objects.get(pk=self.run_.pk).charge_before_percent)

    def test_a_key_that_cannot_act_is_refused_with_a_sentence(self):
        before = self.state()
        for action, more, message in (
            ("void", {"run": self.run_.pk}, "Say why the run is void."),
            ("keep", {}, "Say which run."),
            ("undo", {}, "There is nothing to undo."),
        ):
            with self.subTest(action):
                self.assertEqual(self.press(action, 400, **more)["errors"]["action"], [message])
        answer = self.press("conditions", 400, run=self.run_.pk, conditions={"charge_before_percent": 140})
        self.assertIn("conditions.charge_before_percent", answer["errors"])
        self.assertEqual((self.state(), Press.objects.count()), (before, 0))

    def change_as(self, person, **changes) -> None:
        run = Run.objects.get(pk=self.run_.pk)
        change_run(run, changes, run.revision, person)

    def test_a_key_does_not_write_over_what_somebody_else_decided_meanwhile(self):
        other = UserFactory(username="other")
        self.change_as(other, validity="void", void_reason="traffic", decided=True)
        refused = self.press("keep", 400, run=self.run_.pk, revision=1)["errors"]["action"][0]
        self.assertIn("other changed this run in the meantime", refused)
        self.assertEqual(self.state()[:2], ("void", "traffic"))
        self.press("keep", run=self.run_.pk, revision=2)  # once it was seen
        self.assertEqual(self.state()[0], "valid")

    def test_what_somebody_else_wrote_into_other_fields_is_no_hindrance(self):
        self.change_as(UserFactory(), driver="R.")
        self.press("void", run=self.run_.pk, revision=1, reason="jumped")
        self.assertEqual(Run.objects.get(pk=self.run_.pk).driver, "R.")

    def test_one_s_own_keys_follow_one_another_without_a_reload(self):
        self.press("void", run=self.run_.pk, revision=1, reason="jumped")
        self.press("keep", run=self.run_.pk, revision=1)
        self.press("undo")
        self.assertEqual(self.state()[:2], ("void", "jumped"))

    def test_an_undo_leaves_what_somebody_else_changed_after_the_key(self):
        self.press("void", run=self.run_.pk, revision=1, reason="jumped")
        self.change_as(UserFactory(), void_reason="traffic")
        self.assertIn("in the meantime", self.press("undo", 400)["errors"]["action"][0])
        self.assertEqual(self.state()[:2], ("void", "traffic"))

    def test_a_run_of_another_recorder_is_none_of_this_one_s(self):
        elsewhere = RunFactory(setup=self.setup)
        message = self.press("void", 400, run=elsewhere.pk, reason="jumped")["errors"]["action"][0]
        self.assertEqual(message, "That run was recorded with another recorder.")
        elsewhere.refresh_from_db()
        self.assertEqual(elsewhere.validity, "valid")

    def test_a_key_writes_down_conditions_and_moves_no_run(self):
        other = SetupFactory()
        given = {"setup": other.pk, "course": CourseFactory().pk, "charge_before_percent": 90}
        self.press("conditions", run=self.run_.pk, conditions=given)
        run = Run.objects.get(pk=self.run_.pk)
        self.assertEqual((run.setup, run.course, run.charge_before_percent), (self.setup, None, 90))

    def test_a_reader_presses_nothing(self):
        self.client.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        self.press("undo", 403)


class SuggestionTest(StripTest):
    def suggested(self) -> dict:
        return self.client.get(reverse("recorder-strip", args=[self.recorder.pk])).json()["suggested"]

    def test_the_first_pull_has_no_suggestion(self):
        self.assertEqual(self.suggested(), {})

    def test_the_next_pull_begins_where_the_last_one_ended(self):
        Run.objects.update(charge_before_percent=91, battery_temp_before_c=42)
        RunFactory(log=self.run_.log, setup=self.setup, start_utc=FIRST + timedelta(hours=1))
        found = self.suggested()
        cost = charge_per_run(self.car).value
        self.assertAlmostEqual(found["charge_before_percent"], 91 - cost, delta=0.06)
        self.assertAlmostEqual(found["charge_after_percent"], 91 - 2 * cost, delta=0.06)
        self.assertEqual(found["battery_temp_before_c"], 42)


class RecorderTest(StripTest):
    def setUp(self):
        super().setUp()
        serial = {"kind": "receiver", "connection": "serial", "path": "/dev/ttyACM0"}
        self.receiver = Device.objects.create(name="On the windshield", **serial)
        self.can = Device.objects.create(name="OBD", kind="CAN", connection="socketcan", channel="can0")

    def asked(self, code: int, **changes) -> dict:
        given = {"name": "Two", "setup": self.setup.pk, "receiver": self.receiver.pk, **changes}
        answer = self.post("recorder-list", given)
        self.assertEqual(answer.status_code, code, answer.content)
        return answer.json()

    def test_a_recorder_with_real_devices_is_added_and_started(self):
        made = self.asked(201, can=self.can.pk, day=self.day_.pk)
        strip = self.post("recorder-start", {}, made["id"]).json()
        self.assertEqual((strip["recorder"]["wanted"], strip["runs_open"]), (True, 3))
        self.assertEqual(Recorder.objects.get(pk=made["id"]).started_by, self.person)
        self.assertFalse(self.post("recorder-stop", {}, made["id"]).json()["recorder"]["wanted"])

    def test_what_is_wrong_is_told_at_its_field(self):
        self.assertIn("not a receiver", self.asked(400, receiver=self.can.pk)["errors"]["receiver"][0])
        self.assertIn("no such measure", self.asked(400, measure="0-sixty")["errors"]["measure"][0])
        other = SetupFactory()
        self.assertIn("another car", self.asked(400, setup=other.pk, day=self.day_.pk)["errors"]["day"][0])

    def test_real_devices_take_no_orders(self):
        answer = self.post("recorder-order", {"drive": "launch"}, self.recorder.pk)
        self.assertEqual((answer.status_code, answer.json()["detail"]), (400, "This recorder has real devices."))

    def test_a_stand_in_that_is_gone_is_told(self):
        nobody = {"kind": "simulation", "connection": "tcp", "host": "127.0.0.1", "port": 9}
        Recorder.objects.update(simulation=Device.objects.create(name="Nobody", **nobody))
        answer = self.post("recorder-order", {"drive": "launch"}, self.recorder.pk)
        self.assertEqual((answer.status_code, answer.json()["detail"]), (400, "The simulated car does not answer."))

    def test_the_live_events_need_a_log_in(self):
        self.client.logout()
        self.assertEqual(self.client.get(reverse("live", args=[self.recorder.pk])).status_code, 401)
