"""Everything that a person can make, they can change, delete and get back: one table of all models says how."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.apps import apps
from django.core import serializers
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db.models import Model
from django.test import TestCase
from django.urls import reverse
from PIL import Image
from rest_framework.test import APIClient

from accounts.models import Role
from history.recorded import has_history, label_of
from plans.tests.asking import FIRST, STATE
from recording.models import Device, Recorder
from runs.models import TableLayout
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes, settled
from runs.tests.test_layouts import CORRECTED, LAYOUT, table
from studies.models import OwnMeasure

# Made along with something else, and changed, deleted and brought back with it.
PARTS = {
    "cars.chargepoint": "cars.car",
    "cars.batteryreading": "cars.batteryinterval",
    "courses.station": "courses.course",
    "plans.group": "plans.plan",
    "comparisons.group": "comparisons.comparison",
    "comparisons.member": "comparisons.comparison",
    "runs.run": "runs.log",
    "runs.canlog": "runs.log",
    "runs.rejection": "runs.log",
    "runs.tablecolumn": "runs.tablelayout",
    "runs.untimedrun": "runs.log",
    "runs.runtrace": "runs.log",
    "runs.flag": "runs.log",
    "runs.measured": "runs.log",
    "runs.split": "runs.log",
    "recording.gap": "recording.recording",
    "studies.series": "studies.study",
    "studies.leftout": "studies.study",
    "reports.version": "reports.report",
}
# Nothing that a person writes down.
NOT_MADE = {
    "admin.logentry": "kept by Django",
    "auth.permission": "kept by Django",
    "auth.group": "kept by Django",
    "contenttypes.contenttype": "kept by Django",
    "sessions.session": "kept by Django",
    "otp_totp.totpdevice": "a secret that is shown once: turned off for good",
    "otp_static.staticdevice": "the same",
    "otp_static.statictoken": "the same",
    "accounts.browsersession": "a log-in, ended by logging out",
    "accounts.accountlink": "a secret that is shown once: taken back for good",
    "accounts.identity": "who signs in elsewhere, as the provider says",
    "django_tasks_database.dbtaskresult": "the worker's",
    "accounts.user": "people are disabled, so that what they made keeps its name",
    "accounts.accesstoken": "a secret that is shown once: revoked for good",
    "reports.share": "a secret that is shown once: revoked for good",
    "reports.sharing": "a switch",
    "webhooks.webhook": "a secret that is shown once: removed for good",
    "webhooks.delivery": "what was sent stays sent",
    "accounts.securityevent": "what happened stays",
    "history.action": "what happened stays",
    "history.change": "what happened stays",
    "history.trashedrow": "the trash itself",
    "recording.livereport": "what a recorder reports at the moment",
    "runs.import": "how an import went; its log is what is kept",
    "recording.recording": "recorded, not written; its log is what is kept",
    "recording.press": "a key on a strip screen, undone there",
}


@dataclass(frozen=True)
class Kind:
    """How a row is made over the API, and one change of it."""

    page: str
    given: Callable[[], dict[str, Any]]
    change: dict[str, Any]
    files: bool = False


def plan() -> dict[str, Any]:
    setup = SetupFactory(car=CarFactory(power_kw=250, battery_kwh=80))
    groups = [{"name": "before", "setup": setup.pk}, {"name": "after"}]
    course = CourseFactory().pk
    return {"question": "Quicker?", "car": setup.car_id, "course": course, "runs_per_group": 2, "groups": groups}


def comparison() -> dict[str, Any]:
    setup = SetupFactory()
    runs = [[RunFactory(setup=setup, sixty_s=4.0 + place / 50).pk for place in range(4)] for _ in range(2)]
    groups = [{"name": name, "runs": some} for name, some in zip(("before", "after"), runs, strict=True)]
    return {"title": "Quicker?", "measure": "0-60 mph", "clock": "rollout", "groups": groups}


def study() -> dict[str, Any]:
    setup = SetupFactory()
    left_out = [{"run": RunFactory(setup=setup, sixty_s=4.2).pk, "reason": "spun"}]
    series = [{"name": "all of it", "car": setup.car_id}]
    return {"title": "Flat?", "kind": "history", "measure": "0-60 mph", "series": series, "left_out": left_out}


def picture() -> SimpleUploadedFile:
    held = io.BytesIO()
    Image.new("RGB", (8, 8)).save(held, "PNG")
    return SimpleUploadedFile("gauge.png", held.getvalue())


class MendingTest(TestCase):
    def setUp(self):
        self.client = APIClient()
        self.person = UserFactory(role=Role.ADMINISTRATOR)
        self.client.force_login(self.person, backend="django.contrib.auth.backends.ModelBackend")
        times = {"first_run_at": FIRST.isoformat(), "known_at": (FIRST - timedelta(hours=9)).isoformat()}
        self.kinds = {
            "cars.car": Kind("car", lambda: {"name": "Larch"}, {"notes": "weighed"}),
            "cars.setup": Kind(
                "setup", lambda: {"car": CarFactory().pk, "name": "7.1", "since": "2026-05-01"}, {"tire_tread_mm": 5.5}
            ),
            "cars.manufacturerclaim": Kind(
                "manufacturer-claim",
                lambda: {"car": CarFactory().pk, "measure": "0-60 mph", "value_s": 4.1, "source": "brochure"},
                {"value_s": 4.2},
            ),
            "cars.batteryinterval": Kind(
                "battery-interval",
                lambda: {
                    "car": CarFactory().pk,
                    "kind": "resting",
                    "began_at": FIRST.isoformat(),
                    "table": "0, 44.5, 8\n10, 43, 8\n20, 41.5, 8",
                },
                {"note": "in the wind"},
            ),
            "courses.course": Kind(
                "course",
                lambda: {"name": "Strip", "direction": "out", "heading_deg": 90, "length_m": 900, "runout_m": 100},
                {"runout_m": 250},
            ),
            "reports.report": Kind("report", lambda: {"title": "What it brought"}, {"question": "Worth it?"}),
            "plans.plan": Kind("plan", plan, {"question": "Really quicker?"}),
            "days.testday": Kind(
                "test-day", lambda: {"plan": self.make("plans.plan"), **times, **STATE}, {"notes": "x"}
            ),
            "days.scheduledrun": Kind("scheduled-run", self.step, {"note": "into the wind"}),
            "days.checklistitem": Kind(
                "checklist-item",
                lambda: {"day": self.make("days.testday"), "section": "Own", "text": "Cones out"},
                {"text": "Cones out, both ends"},
            ),
            "runs.receiver": Kind("receiver", lambda: {"name": "Nail 3"}, {"smoothing_s": 0.1}),
            "comparisons.comparison": Kind("comparison", comparison, {"title": "Quicker after all?"}),
            "studies.study": Kind("study", study, {"title": "Still flat?"}),
            "studies.ownmeasure": Kind("own-measure", lambda: {"name": "Noise", "unit": "dB"}, {"better": "less"}),
            "studies.ownvalue": Kind(
                "own-value",
                lambda: {
                    "measure": OwnMeasure.objects.create(name="Range").pk,
                    "setup": SetupFactory().pk,
                    "value": 410,
                    "day": "2026-05-09",
                },
                {"value": 415},
            ),
            "studies.tableview": Kind("table-view", lambda: {"name": "Mine", "columns": ["body"]}, {"sort": "body"}),
            "runs.log": Kind(
                "log",
                lambda: {"file": SimpleUploadedFile("day.nmea", log_bytes()), "setup": SetupFactory().pk},
                {"day": "2026-05-10"},
                files=True,
            ),
            "runs.tablelayout": Kind(
                "table-layout",
                lambda: {
                    "file": SimpleUploadedFile("drive.csv", table(1)),
                    "setup": SetupFactory().pk,
                    "layout": json.dumps(LAYOUT),
                    "day": "2026-05-09",
                },
                {"columns": [{"heading": name, "meaning": mean} for name, mean in CORRECTED.items()]},
                files=True,
            ),
            "runs.attachment": Kind(
                "attachment", lambda: {"run": RunFactory().pk, "file": picture()}, {"name": "display.png"}, files=True
            ),
            "recording.device": Kind(
                "device",
                lambda: {"name": "Roof", "kind": "receiver", "connection": "serial", "path": "/dev/ttyACM0"},
                {"path": "/dev/ttyACM1"},
            ),
            "recording.recorder": Kind("recorder", self.recorder, {"name": "Left lane"}),
            "recording.headsup": Kind("heads-up-run", self.pair, {}),
        }

    def step(self) -> dict[str, Any]:
        day = self.make("days.testday")
        group = apps.get_model("plans.Group").objects.latest("pk")
        return {"day": day, "group": group.pk, "direction": "back"}

    def recorder(self) -> dict[str, Any]:
        device = Device.objects.create(name=f"Roof {Device.objects.count()}", kind="receiver", path="/dev/ttyACM0")
        return {"name": f"Lane {Recorder.objects.count()}", "setup": SetupFactory().pk, "receiver": device.pk}

    def pair(self) -> dict[str, Any]:
        return {"left": self.make("recording.recorder"), "right": self.make("recording.recorder")}

    def make(self, label: str) -> int:
        kind = self.kinds[label]
        if label == "runs.tablelayout":  # named while a table is imported
            settled(self.client, self.client.post(reverse("log-list"), kind.given(), format="multipart"))
            return TableLayout.objects.get().pk
        form = "multipart" if kind.files else "json"
        answer = self.client.post(reverse(f"{kind.page}-list"), kind.given(), format=form)
        if label == "runs.log":
            return int(settled(self.client, answer).data["log"]["id"])
        self.assertEqual(answer.status_code, 201, answer.content)
        return int(answer.json()["id"])

    def undo(self, answer) -> None:
        done = self.client.post(reverse("action-undo", args=[answer["Coombe-Action"]]))
        self.assertEqual(done.status_code, 201, done.content)

    def test_the_table_has_every_model_once(self):
        every = {label_of(model) for model in apps.get_models()}
        named = [*self.kinds, *PARTS, *NOT_MADE]
        self.assertEqual(sorted(named), sorted(every))
        self.assertLessEqual(set(PARTS.values()), set(self.kinds) | set(NOT_MADE))

    def test_each_is_changed_deleted_and_brought_back(self):
        for label, kind in self.kinds.items():
            with self.subTest(label):
                model = apps.get_model(label)
                self.assertTrue(has_history(model))
                number = self.make(label)
                page = reverse(f"{kind.page}-detail", args=[number])
                row = model._default_manager.get(pk=number)
                made = serializers.serialize("json", [row])
                if kind.change:
                    revision = {"revision": row.revision} if hasattr(row, "revision") else {}
                    changed = self.client.patch(page, kind.change | revision, format="json")
                    self.assertEqual(changed.status_code, 200, changed.content)
                    self.undo(changed)
                    self.assertEqual(self.facts(model, number), self.facts_of(made))
                deleted = self.client.delete(page)
                self.assertEqual(deleted.status_code, 204, deleted.content)
                self.assertFalse(model._default_manager.filter(pk=number).exists())
                self.undo(deleted)
                self.assertEqual(self.facts(model, number), self.facts_of(made))

    def facts(self, model: type[Model], number: int) -> dict[str, Any]:
        return self.facts_of(serializers.serialize("json", [model._default_manager.get(pk=number)]))

    def facts_of(self, data: str) -> dict[str, Any]:
        """All of a row but how often it was changed."""
        (row,) = json.loads(data)
        return {name: value for name, value in row["fields"].items() if name != "revision"}
