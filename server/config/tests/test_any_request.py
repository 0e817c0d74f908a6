"""Requests that nobody thought of, made from the schema: none of them fails in the server, all answers are documented.

`schemathesis` makes them. The examples are few and always the same here; more are tried with COOMBE_EXAMPLES=200.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from typing import Any

import schemathesis
from django.conf import settings
from django.core.wsgi import get_wsgi_application
from django.test import TransactionTestCase
from hypothesis import HealthCheck, Phase, given
from hypothesis import settings as examples
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import status_code_conformance

from accounts.models import Role
from comparisons.models import Comparison
from days.services import lay_out
from plans.models import Group, Plan
from plans.tests.asking import FIRST, STATE
from recording.models import Device, HeadsUp, Recorder
from reports.models import Report
from runs.models import Attachment, Receiver
from runs.tests.factories import CarFactory, CourseFactory, RunFactory, SetupFactory, UserFactory
from studies.models import OwnMeasure, Study
from trials.asking import Asker

EXAMPLES = int(os.environ.get("COOMBE_EXAMPLES", "4"))
NOT_TRIED = {"session_create", "session_delete", "password_change"}  # these end the log-in of the test itself


def try_operation(operation: Any, count: int, aim: Callable[[Any], None] = lambda case: None, **how: Any) -> None:
    """Send some requests to an operation: none may fail in the server, and every answer is a documented one."""

    @given(case=operation.as_strategy())
    @examples(
        max_examples=count,
        deadline=None,
        derandomize=True,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    def answered(case: Any) -> None:
        aim(case)
        case.call_and_validate(checks=[not_a_server_error, status_code_conformance], **how)

    answered()


class AnyRequestTest(TransactionTestCase):
    def setUp(self):
        run = RunFactory(course=CourseFactory(), setup=SetupFactory(car=CarFactory(power_kw=250)))
        person = UserFactory()
        recorder = Recorder.objects.create(name="One", setup=run.setup)
        other = Recorder.objects.create(name="Two", setup=run.setup)
        device = Device.objects.create(name="One", kind="receiver", connection="serial", path="/dev/ttyACM0")
        comparison = Comparison.objects.create(title="?", measure="0-60 mph", clock="rollout", created_by=person)
        attachment = Attachment.objects.create(
            run=run, name="a", sha256="a" * 64, size_bytes=1, media_type="image/png", added_by=person
        )
        plan = Plan.objects.create(car=run.setup.car, course=run.course, question="?", created_by=person)
        for position, name in enumerate(("a", "b")):
            Group.objects.create(plan=plan, name=name, position=position)
        day = lay_out(plan, {"first_run_at": FIRST, "known_at": FIRST, **STATE})
        self.there = {
            "attachments": attachment.pk,
            "cars": run.setup.car_id,
            "checklist-items": day.checklist.first().pk,
            "comparisons": comparison.pk,
            "courses": run.course_id,
            "test-days": day.pk,
            "devices": device.pk,
            "logs": run.log_id,
            "scheduled-runs": day.scheduled_runs.first().pk,
            "plans": plan.pk,
            "receivers": Receiver.objects.create(name="One").pk,
            "recorders": recorder.pk,
            "runs": run.pk,
            "setups": run.setup_id,
            "heads-up-runs": HeadsUp.objects.create(left=recorder, right=other).pk,
            "studies": Study.objects.create(title="?", kind="history", created_by=person).pk,
            "own-measures": OwnMeasure.objects.create(name="noise", unit="dB").pk,
            "manufacturer-claims": run.setup.car.claims.create(measure="0-60 mph", value_s=4.1, source="brochure").pk,
            "reports": Report.objects.create(title="?", created_by=person).pk,
        }

    def try_all(self, role: Role) -> None:
        asker = Asker(0)
        asker.log_in(UserFactory(role=role))
        raw = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        schema = schemathesis.openapi.from_dict(raw)
        schema.app = get_wsgi_application()
        schema.config.update(base_url="http://127.0.0.1")
        for found in schema.get_all_operations():
            operation: Any = found.ok()
            if operation.definition.raw["operationId"] in NOT_TRIED:
                continue
            with self.subTest(operation.label, role=role):
                self.try_one(operation, asker.headers)

    def try_one(self, operation: Any, headers: dict[str, str]) -> None:
        def aimed(case: Any) -> None:
            if case.path_parameters and "id" in case.path_parameters:  # of something that is there
                case.path_parameters["id"] = self.there.get(operation.path.split("/")[3], 999_999)

        try_operation(operation, EXAMPLES, aimed, headers=headers)

    def test_as_a_tester(self):
        self.try_all(Role.TESTER)

    def test_as_an_administrator(self):
        self.try_all(Role.ADMINISTRATOR)
