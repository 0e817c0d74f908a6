"""A saved comparison as a data package: it says what the page says, and comes out again from its logs."""

from __future__ import annotations

import io

from django.test import TestCase
from django.urls import reverse

from accounts.models import Role
from comparisons.tests.test_comparisons import ASKED, Groups, asked_groups
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from runs.models import Run
from runs.services import void_run
from runs.tests.factories import CourseFactory, UserFactory


class PackagingTest(Groups, TestCase):
    def saved(self) -> int:
        groups = asked_groups(self.groups["before"], self.groups["after"])
        answer = self.client.post(reverse("comparison-list"), ASKED | groups | {"title": "=Did it?"})
        self.assertEqual(answer.status_code, 201, answer.json())
        return answer.json()["id"]

    def package(self, pk: int, **asked):
        answer = self.client.get(reverse("comparison-package", args=[pk]), asked)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return read_package(io.BytesIO(answer.content))

    def test_it_comes_out_again_and_says_what_the_page_says(self):
        Run.objects.update(course=CourseFactory(slope_percent=0.4, slope_u95_percent=0.1))
        for run in Run.objects.all():  # the surveyed slope is in their corrected times only
            run.refresh_from_db()
        pk = self.saved()
        opened = self.package(pk)
        outcomes = [(each.outcome, each.what, each.detail) for each in verify(opened)]
        self.assertEqual({outcome for outcome, *_ in outcomes}, {"agrees"}, outcomes)
        page = self.client.get(reverse("comparison-detail", args=[pk])).json()["result"]["pairs"][0]
        verdict = opened.package.tables["verdict"][0]
        self.assertEqual((verdict["verdict"], verdict["sentence"]), (page["verdict"], page["sentence"]))
        self.assertEqual(verdict["difference"], page["difference"]["value"])
        self.assertEqual(len(opened.package.tables["runs"]), 10)

    def test_a_run_that_was_left_out_is_in_it_with_its_reason(self):
        pk = self.saved()
        run = Run.objects.get(pk=self.groups["before"][0])
        void_run(run, "traffic", "", run.revision, self.person)
        members = self.package(pk).package.tables["members"]
        self.assertEqual([row["dropped"] for row in members if row["run"] == run.pk], ["void: traffic"])

    def test_a_reader_takes_one_and_a_license_that_nobody_knows_is_refused(self):
        pk = self.saved()
        self.client.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        self.package(pk, license="CC-BY-4.0")
        answer = self.client.get(reverse("comparison-package", args=[pk]), {"license": "mine"})
        self.assertEqual((answer.status_code, list(answer.json()["errors"])), (400, ["license"]))
