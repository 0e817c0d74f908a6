"""Every screen: accessible in both themes, no wider than the hand that holds it, and useful when empty."""

from __future__ import annotations

import gzip
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import Response, expect

from comparisons.models import Comparison
from comparisons.models import Group as ComparedGroup
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from days.services import lay_out
from driving import DESK, HAND, BrowserTest, violations
from plans.models import Group, Plan
from recording.models import Recorder
from runs.services import import_log
from runs.tests.factories import CourseFactory, RunFactory, SetupFactory, UserFactory


class ScreensTest(BrowserTest):
    def setUp(self):
        super().setUp()
        person = UserFactory(username="tester")
        setup = SetupFactory(tire_pressure_kpa=290)
        data = write_log(simulate(SCENARIOS["five-runs"], 3).trace, "nmea")
        runs = list(import_log("day.nmea", data, setup, person, {"charge_before_percent": 95}).log.runs.all())
        stop = import_log(
            "stops.nmea", write_log(simulate(SCENARIOS["clean-run"], 4).trace, "nmea"), setup, person, {}
        ).log
        comparison = Comparison.objects.create(title="A?", measure="0-60 mph", clock="rollout", created_by=person)
        for position, (name, chosen) in enumerate((("before", runs[:2]), ("after", runs[2:]))):
            ComparedGroup.objects.create(comparison=comparison, position=position, name=name).runs.set(chosen)
        plan = Plan.objects.create(question="B?", car=setup.car, course=CourseFactory(), created_by=person)
        Group.objects.bulk_create(Group(plan=plan, name=name, position=i) for i, name in enumerate(("before", "after")))
        state = {"charge_percent": 60, "battery_temp_c": 12, "outside_temp_c": 10}
        first = timezone.now() + timedelta(hours=12)
        day = lay_out(plan, {"first_run_at": first, "known_at": timezone.now(), **state})
        for name in ("Left", "Right"):
            Recorder.objects.create(name=name, setup=setup)
        RunFactory(setup=setup)
        self.screens = [
            "/cars",
            f"/cars/{setup.car_id}",
            "/courses",
            f"/courses/{plan.course_id}",
            "/plans",
            "/plans/new",
            f"/plans/{plan.pk}",
            f"/days/{day.pk}",
            f"/days/{day.pk}/sheet",
            "/runs",
            f"/runs/{runs[0].pk}",
            f"/runs/{runs[0].pk}/slip",
            f"/runs/{stop.runs.get(kind='stop').pk}",
            "/",
            "/compare",
            "/compare/quick",
            "/compare/new",
            f"/compare/{comparison.pk}",
            "/studies",
            "/studies/new?kind=history",
            "/studies/own-measures",
            "/reports",
            "/all-cars",
            "/logs",
            "/record",
            "/runs/fill",
            "/import",
            "/help",
        ]

    def test_axe_finds_nothing_serious_in_light_and_dark_and_nothing_is_wider_than_a_phone(self):
        """One visit for all of it: coming to a screen takes longer than looking at it."""
        page = self.open_context(color_scheme="light").new_page()
        self.come_in(page, "tester")
        for screen in self.screens:
            page.goto(screen)
            page.wait_for_load_state("networkidle")
            expect(page.get_by_role("heading").first).to_be_visible()
            self.assertEqual(violations(page), [], screen)
            other = page.get_by_role("button", name="Dark", exact=True)
            if other.count():  # what is made for paper has no themes
                other.click()
                self.assertEqual(violations(page, colors_only=True), [], f"{screen}, dark")
                page.get_by_role("button", name="Light", exact=True).click()
            page.set_viewport_size(HAND)
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), HAND["width"], screen)
            page.set_viewport_size(DESK)

    def test_axe_finds_nothing_serious_at_the_log_in(self):
        for scheme in ("light", "dark"):
            page = self.open_context(color_scheme=scheme).new_page()
            page.goto("/")
            page.get_by_label("Name").wait_for()
            self.assertEqual(violations(page), [], scheme)

    def test_the_first_page_loads_under_300_kb_of_compressed_script(self):
        page = self.open_page()  # that has nothing cached
        self.come_in(page, "tester")
        fresh = self.open_context(storage_state=page.context.storage_state()).new_page()
        scripts: dict[str, int] = {}
        fresh.on("response", lambda answer: scripts.update(self.script(answer)))
        fresh.goto("/")
        fresh.get_by_role("region", name="Open tests").wait_for()
        fresh.wait_for_load_state("networkidle")
        self.assertGreater(len(scripts), 2)
        self.assertLess(sum(scripts.values()), 300_000, scripts)

    def script(self, answer: Response) -> dict[str, int]:
        """A script's address and its size as gzip makes it."""
        if not answer.url.split("?")[0].endswith(".js") or not answer.ok:
            return {}
        return {answer.url: len(gzip.compress(answer.body()))}

    def test_open_forms_are_accessible(self):
        page = self.page
        self.come_in(page, "tester")
        page.goto(self.screens[1])
        page.get_by_role("button", name="Add a setup").click()
        page.get_by_label("What changed").wait_for()
        self.assertEqual(violations(page), [])

    def test_shortcuts_move_and_are_listed(self):
        page = self.page
        self.come_in(page, "tester")
        page.keyboard.press("c")
        expect(page.get_by_role("heading", name="Cars")).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("Switch units")

    def test_units_switch_everywhere_at_once(self):
        page = self.page
        self.come_in(page, "tester")
        page.goto(next(screen for screen in self.screens if screen.startswith("/runs/")))
        expect(page.get_by_label("Result", exact=True)).to_contain_text("0-60 mph")
        page.keyboard.press("u")
        expect(page.get_by_label("Result", exact=True)).to_contain_text("0-100 km/h")


class EmptyTest(BrowserTest):
    def test_an_empty_notebook_says_what_to_do_first(self):
        UserFactory(username="tester")
        page = self.page
        self.come_in(page, "tester")
        expect(page.get_by_text("No runs yet")).to_be_visible()
        page.goto("/cars")
        page.get_by_role("button", name="Add a car").click()
        page.get_by_label("Name").fill("Vireo")
        page.get_by_role("button", name="Add car").click()
        page.get_by_role("link", name="Vireo").click()
        page.get_by_role("button", name="Add a setup").click()
        page.get_by_label("Name").fill("Delivered")
        page.get_by_role("button", name="Add setup").click()
        expect(page.get_by_role("cell", name="Delivered", exact=True)).to_be_visible()

    def test_a_reader_is_offered_nothing_to_write(self):
        UserFactory(username="looker", role="reader")
        page = self.page
        self.come_in(page, "looker")
        expect(page.get_by_role("button", name="Import logs")).to_have_count(0)
        page.goto("/cars")
        expect(page.get_by_role("button", name="Add a car")).to_have_count(0)
