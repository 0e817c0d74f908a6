"""A report as it is published: it says what the pages say, in files that never change and come out again."""

from __future__ import annotations

import hashlib
import html
import io
import re
from unittest.mock import patch

from django.test import TestCase
from django.urls import reverse
from PIL import Image
from pypdf import PdfReader

from accounts.models import Role
from comparisons.models import Comparison
from comparisons.tests.test_comparisons import ASKED, Groups, asked_groups
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from reports.models import Report, Version
from reports.parts import PartError
from reports.publishing import publish
from runs import store
from runs.models import Run
from runs.originals import named
from runs.services import void_run
from runs.tests.factories import RunFactory, UserFactory

PAPER_PT = {"letter": (612, 792), "a4": (595, 842)}  # 8.5 x 11 in; ISO 216: 210 x 297 mm


class Written(Groups):
    """A report of a saved comparison, a slip, a text and the table of all cars."""

    def setUp(self):
        super().setUp()
        groups = asked_groups(self.groups["before"], self.groups["after"])
        self.comparison = self.client.post(reverse("comparison-list"), ASKED | groups | {"title": "Did it?"}).json()
        self.parts = [
            {"kind": "text", "text": "First words.\n\n<script>alert(1)</script> and $5"},
            {"kind": "comparison", "id": self.comparison["id"]},
            {"kind": "slip", "id": self.groups["before"][0]},
            {"kind": "all cars"},
        ]
        self.pk = self.write()

    def write(self, **given) -> int:
        asked = {"title": "What it brought", "question": "Was it worth it?", "parts": self.parts}
        answer = self.client.post(reverse("report-list"), asked | given)
        self.assertEqual(answer.status_code, 201, answer.content[:500])
        return answer.json()["id"]

    def publish(self, pk: int | None = None, status: int = 201):
        answer = self.client.post(reverse("report-publish", args=[pk or self.pk]))
        self.assertEqual(answer.status_code, status, answer.content[:500])
        return answer.json()

    def file(self, version: int, kind: str) -> bytes:
        answer = self.client.get(reverse("report-version-file", args=[version, kind]))
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return answer.content

    def words(self, version: int) -> str:
        """The text of the PDF, its lines joined."""
        pages = PdfReader(io.BytesIO(self.file(version, "pdf"))).pages
        return re.sub(r"\s+", " ", " ".join(page.extract_text() for page in pages))


class PublishingTest(Written, TestCase):
    def test_page_and_paper_say_what_the_comparison_says(self):
        version = self.publish()
        pair = self.comparison["result"]["pairs"][0]
        page = html.unescape(self.file(version["id"], "html").decode())
        words = self.words(version["id"])
        for said in ("What it brought", "Was it worth it?", "First words.", pair["sentence"], *pair["reasons"]):
            with self.subTest(said):
                self.assertIn(said, page)
                self.assertIn(re.sub(r"\s+", " ", said), words)
        run = Run.objects.select_related("log").get(pk=self.groups["before"][0])
        self.assertIn(run.log.sha256 or "not kept", page)
        self.assertIn(f"{run.measured.get(name='0-60 mph', clock='rollout').time_s:.3f}", page)

    def test_the_page_needs_no_script_and_nothing_from_elsewhere(self):
        page = self.file(self.publish()["id"], "html").decode()
        self.assertNotIn("<script", page)
        self.assertIn("&lt;script&gt;", page)
        addresses = re.findall(r"""(?:src|href)=["']([^"']+)|url\(([^)]+)\)""", page)
        self.assertTrue(addresses)
        self.assertTrue(all((one or other).startswith("data:") for one, other in addresses), addresses)

    def test_the_package_comes_out_again(self):
        opened = read_package(io.BytesIO(self.file(self.publish()["id"], "package")))
        self.assertEqual({each.outcome for each in verify(opened)}, {"agrees"})
        self.assertEqual(len(opened.package.tables["runs"]), 10)

    def test_it_is_printed_on_the_paper_that_was_asked_for(self):
        for paper, (width, height) in PAPER_PT.items():
            version = self.publish(self.write(paper=paper, parts=self.parts[:1]))
            box = PdfReader(io.BytesIO(self.file(version["id"], "pdf"))).pages[0].mediabox
            self.assertEqual((round(box.width), round(box.height)), (width, height))

    def test_a_card_is_a_picture_of_the_size_that_pages_take(self):
        version = self.publish()
        self.assertEqual(len(version["cards"]), 2)  # the verdict and the slip
        for place in range(2):
            answer = self.client.get(reverse("report-version-card", args=[version["id"], place]))
            picture = Image.open(io.BytesIO(answer.content))
            self.assertEqual((picture.format, picture.size), ("PNG", (1200, 630)))
        self.assertEqual(self.client.get(reverse("report-version-card", args=[version["id"], 2])).status_code, 404)

    def test_what_is_published_stays_and_a_new_version_says_what_changed(self):
        first = self.publish()
        kinds = ("html", "pdf", "package")
        before = [self.file(first["id"], kind) for kind in kinds]
        self.assertIn("Nothing has changed", self.publish(status=409)["detail"])
        run = Run.objects.get(pk=self.groups["after"][0])
        void_run(run, "wheel spin", "", run.revision, self.person)
        second = self.publish()
        self.assertEqual(second["number"], 2)
        self.assertIn("1 run became void.", second["changes"])
        self.assertTrue(any(change.startswith("Did it? said: ") for change in second["changes"]))
        self.assertIn("void: wheel spin", self.file(second["id"], "html").decode())
        self.assertEqual([self.file(first["id"], kind) for kind in kinds], before)

    def change(self, **changes) -> list[str]:
        """Change the report and publish it; what the version says that it changed."""
        address = reverse("report-detail", args=[self.pk])
        revision = self.client.get(address).json()["revision"]
        answer = self.client.patch(address, changes | {"revision": revision})
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return self.publish()["changes"]

    def test_each_kind_of_change_makes_a_version_that_names_it(self):
        self.publish()
        text, comparison, slip, cars = self.parts
        for changes, said in (
            ({"title": "Anew"}, "Title or question were worded anew."),
            ({"paper": "a4"}, "Its paper or the license of its data is another."),
            ({"license": "CC0-1.0"}, "Its paper or the license of its data is another."),
            ({"units": "metric"}, "It is written in other units."),
            ({"parts": [comparison, text, slip, cars]}, "Its parts stand in another order."),
            ({"parts": [comparison, text | {"text": "Other words."}, slip, cars]}, "Its texts were worded anew."),
            ({"parts": [comparison, text | {"text": "Other words."}, slip]}, "Taken out: All cars."),
        ):
            with self.subTest(said):
                self.assertEqual(self.change(**changes), [said])
        Run.objects.filter(pk=self.groups["before"][1]).update(outside_temp_c=31)
        self.assertEqual(
            self.publish()["changes"], ["What is noted of setups, courses, conditions or other runs is different."]
        )

    def test_a_run_more_and_a_part_more_are_named(self):
        short = [self.parts[1]]
        self.pk = self.write(parts=short)
        self.publish()
        extra = RunFactory(setup=Run.objects.get(pk=self.groups["before"][0]).setup)
        changes = self.change(parts=[*short, {"kind": "slip", "id": extra.pk}])
        self.assertIn("1 run came.", changes)
        self.assertIn(f"New: {extra.setup.car.name}, {extra.setup.name}.", changes)
        self.assertIn("1 run went.", self.change(parts=short))

    def test_of_two_who_publish_at_once_the_second_hears_of_the_first(self):
        report = Report.objects.get(pk=self.pk)
        self.publish()
        report.title = "Anew"
        with patch.object(type(report.versions), "first", return_value=None), self.assertRaisesRegex(PartError, "just"):
            publish(report, self.person)
        self.assertEqual(report.versions.count(), 1)

    def test_a_part_that_is_gone_is_named_and_nothing_is_published(self):
        Comparison.objects.get(pk=self.comparison["id"]).delete()
        answer = self.publish(status=409)
        self.assertIn(f"Comparison {self.comparison['id']} was deleted", answer["detail"])
        self.assertEqual(self.client.get(reverse("report-preview", args=[self.pk])).status_code, 409)
        self.assertFalse(Version.objects.exists())

    def test_while_a_run_waits_to_be_timed_again_nothing_is_published(self):
        Run.objects.filter(pk=self.groups["before"][0]).update(stale=True)
        self.assertIn("1 run of it will be timed again", self.publish(status=409)["detail"])
        self.assertFalse(Version.objects.exists())
        Run.objects.update(stale=False)
        self.publish()

    def test_an_empty_one_and_one_that_is_too_large_are_refused(self):
        self.assertIn("empty", self.publish(self.write(parts=[]), 409)["detail"])
        with patch("reports.composing.MOST_RUNS", 9):
            self.assertIn("at most 9 runs, and this one has 10", self.publish(status=409)["detail"])

    def test_a_part_without_number_or_words_is_refused_at_its_field(self):
        for part, field in (({"kind": "comparison"}, "id"), ({"kind": "text", "text": " "}, "text")):
            answer = self.client.post(reverse("report-list"), {"title": "A", "parts": [part]})
            self.assertEqual(answer.status_code, 400)
            self.assertIn(field, str(answer.json()["errors"]))

    def test_its_files_are_the_stores_own_and_no_trash(self):
        self.publish()
        version = Version.objects.get()
        hashes = {version.html_sha256, version.pdf_sha256, version.package_sha256}
        self.assertLessEqual(hashes, set(named()))
        self.assertFalse(hashes & set(store.check(set(named())).unknown))

    def test_a_deleted_one_comes_back_with_what_was_published(self):
        version = self.publish()
        page = self.file(version["id"], "html")
        deleted = self.client.delete(reverse("report-detail", args=[self.pk]))
        self.assertFalse(Version.objects.exists())
        self.assertIn(hashlib.sha256(page).hexdigest(), named())
        undone = self.client.post(reverse("action-undo", args=[deleted.headers["Coombe-Action"]]))
        self.assertEqual(undone.status_code, 201, undone.content[:300])
        self.assertEqual(self.file(Version.objects.get().pk, "html"), page)

    def test_a_reader_reads_and_publishes_nothing(self):
        version = self.publish()
        self.client.force_login(UserFactory(role=Role.READER), backend="django.contrib.auth.backends.ModelBackend")
        self.assertTrue(self.file(version["id"], "html"))
        self.publish(status=403)

    def test_two_people_who_write_at_once_do_not_overwrite_one_another(self):
        change = {"title": "Mine", "revision": 1}
        address = reverse("report-detail", args=[self.pk])
        self.assertEqual(self.client.patch(address, change).status_code, 200)
        self.assertEqual(self.client.patch(address, change | {"title": "Theirs"}).status_code, 409)
        self.assertEqual(Report.objects.get(pk=self.pk).title, "Mine")
