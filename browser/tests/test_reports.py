"""A report from the comparison to somebody who has no log-in, and what becomes of it when a run is voided."""

from __future__ import annotations

import io
import re
import tempfile
import zipfile
from pathlib import Path

from playwright.sync_api import Page, expect
from pypdf import PdfReader

from comparisons.models import Comparison, Group
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from driving import BrowserTest, violations
from runs import resting
from runs.models import Run
from runs.services import import_log, void_run
from runs.tests.factories import CarFactory, SetupFactory, UserFactory
from studies.models import Series, Study
from studies.services import keep
from two_folders import write_logs


class ReportTest(BrowserTest):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.person, car = UserFactory(username="tester"), CarFactory()
        self.comparison = Comparison.objects.create(
            title="Did update 7.2 change it?", measure="0-60 mph", clock="rollout", created_by=self.person
        )
        logs = write_logs(self.folder, 1, 1)
        for position, (group, name) in enumerate((("before", "From new"), ("after", "Update 7.2"))):
            setup = SetupFactory(car=car, name=name)
            log = import_log(logs[group][0].name, logs[group][0].read_bytes(), setup, self.person, {}).log
            Group.objects.create(comparison=self.comparison, position=position, name=group).runs.set(log.runs.all())
            for place, run in enumerate(log.runs.order_by("start_utc")):
                Run.objects.filter(pk=run.pk).update(charge_before_percent=90 - 12 * place)
                resting.settle(run)
        self.study = Study.objects.create(
            title="How does it hold up?",
            kind="charge sweep",
            measure="0-60 mph",
            clock="rollout",
            created_by=self.person,
        )
        Series.objects.create(study=self.study, position=0, name="From new", car=car, setup=car.setups.first())
        keep(self.study)

    def test_it_is_made_published_read_without_log_in_and_worked_out_again(self):
        page = self.page
        self.come_in(page, self.person.username)
        self.write(page)
        page.get_by_role("button", name="Publish", exact=True).click()
        expect(page.get_by_text("Version 1")).to_be_visible()
        self.assertEqual(violations(page), [])
        page.get_by_role("button", name="Make a link").click()
        link = page.get_by_test_id("link").inner_text()

        stranger = self.open_page()
        stranger.goto(link)
        expect(stranger.get_by_role("heading", name="Did update 7.2 change it?").first).to_be_visible()
        sentence = stranger.locator(".verdict p").last.inner_text()
        expect(stranger.get_by_role("heading", name="How does it hold up?")).to_be_visible()
        self.assertEqual(violations(stranger), [])
        stranger.goto(self.address)
        expect(stranger.get_by_label("Password", exact=True)).to_be_visible()  # nothing else without a log-in
        stranger.goto(link)
        self.paper_says(self.saved(stranger, "PDF"), sentence)
        self.file_needs_no_network(self.saved(stranger, "one file"), sentence)
        self.package_comes_out_again(self.saved(stranger, "data package"))

        run = Run.objects.filter(setup__name="Update 7.2").first()
        void_run(run, "wheel spin", "", run.revision, self.person)
        stranger.reload()
        expect(stranger.locator(".verdict p").last).to_have_text(sentence)
        expect(stranger.get_by_text("void: wheel spin")).to_have_count(0)
        page.get_by_role("button", name="Publish a new version").click()
        expect(page.get_by_text("1 run became void.")).to_be_visible()
        stranger.reload()
        expect(stranger.get_by_text("void: wheel spin").first).to_be_visible()
        stranger.get_by_role("link", name="1", exact=True).click()
        expect(stranger.locator(".verdict p").last).to_have_text(sentence)

        page.get_by_role("button", name=re.compile("Revoke the link")).click()
        page.get_by_role("tooltip").get_by_role("button", name="Revoke").click()
        expect(page.get_by_role("cell", name="revoked")).to_be_visible()
        stranger.goto(link)
        expect(stranger.get_by_text("This link was revoked.")).to_be_visible()
        self.one_with_a_password_asks_for_it(page, stranger)

    def one_with_a_password_asks_for_it(self, page: Page, stranger: Page) -> None:
        page.get_by_label("Password of the link").fill("open sesame")
        page.get_by_role("button", name="Make a link").click()
        expect(page.get_by_role("cell", name=re.compile(", password$"))).to_be_visible()
        stranger.goto(page.get_by_test_id("link").inner_text())
        for password, then in (
            ("open barley", stranger.get_by_text("That is not the password.")),
            ("open sesame", stranger.get_by_role("heading", name="How does it hold up?")),
        ):
            stranger.get_by_label("Password").fill(password)
            stranger.get_by_role("button", name="Open").click()
            expect(then).to_be_visible()

    def write(self, page: Page) -> None:
        """From the comparison; the study and a text are added and moved."""
        page.goto(f"/compare/{self.comparison.pk}")
        page.get_by_role("button", name="Report", exact=True).click()
        page.get_by_role("button", name="New report").click()
        expect(page.get_by_text("1. Comparison")).to_be_visible()
        self.choose(page, "Add a part", self.study.title)
        self.choose(page, "Add a part", "Text")
        page.get_by_label("Text of part 3").fill("Both on the same afternoon.")
        page.get_by_role("button", name="Move part 3 up").click()
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("Not saved yet")).to_have_count(0)

    def saved(self, page: Page, name: str) -> Path:
        with page.expect_download() as coming:
            page.get_by_role("link", name=name, exact=True).click()
        path = self.folder / coming.value.suggested_filename
        coming.value.save_as(path)
        return path

    def paper_says(self, path: Path, sentence: str) -> None:
        words = " ".join(page.extract_text() for page in PdfReader(path).pages)
        for said in (sentence, "Both on the same afternoon.", "How does it hold up?"):
            self.assertIn(said, re.sub(r"\s+", " ", words))

    def file_needs_no_network(self, path: Path, sentence: str) -> None:
        context = self.open_context(offline=True, java_script_enabled=False)
        page = context.new_page()
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.goto(f"file://{path}")
        expect(page.get_by_text(sentence).first).to_be_visible()
        self.assertEqual([url for url in asked if not url.startswith(("file:", "data:"))], [])

    def package_comes_out_again(self, path: Path) -> None:
        self.assertEqual({each.outcome for each in verify(read_package(io.BytesIO(path.read_bytes())))}, {"agrees"})
        doctored = self.folder / "doctored.zip"
        with zipfile.ZipFile(path) as before, zipfile.ZipFile(doctored, "w") as after:
            log = next(name for name in before.namelist() if name.startswith("logs/"))
            for name in before.namelist():
                data = bytearray(before.read(name))
                if name == log:
                    data[len(data) // 2] ^= 1
                after.writestr(name, bytes(data))
        differing = [
            each for each in verify(read_package(io.BytesIO(doctored.read_bytes()))) if each.outcome != "agrees"
        ]
        self.assertIn(log, str(differing))
