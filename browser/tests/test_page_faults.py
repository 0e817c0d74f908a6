"""What a page does when something breaks, and how it is worked without a mouse and without single keys."""

from __future__ import annotations

import json
import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Route, expect

from accounts.models import Role
from cars.models import Car
from comparisons.models import Comparison, Group
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest, violations
from recording.models import Device, Press, Recorder, Recording
from runs.models import Run
from runs.services import import_log
from runs.tests.factories import PASSWORD, LogFactory, RunFactory, SetupFactory, UserFactory
from runs.tests.test_import import log_bytes

PROBLEM = json.dumps(
    {"type": "about:blank", "title": "x", "status": 500, "detail": "Something failed in the server.", "code": "failed"}
)


class FaultsCase(BrowserTest):
    def setUp(self):
        super().setUp()
        self.person = UserFactory(username="tester")
        self.come_in(self.page, "tester")


class BrokenPageTest(FaultsCase):
    def test_a_part_that_a_deployment_removed_says_so_and_leaves_the_frame(self):
        page = self.page
        page.route(re.compile(r"CarsPage.*\.js"), lambda route: route.abort())
        page.get_by_role("link", name="Cars", exact=True).click()
        alert = page.get_by_role("alert")
        expect(alert).to_contain_text("Coombe was upgraded")
        expect(alert.get_by_role("button", name="Reload")).to_be_visible()
        page.unroute_all()
        page.get_by_role("link", name="Courses", exact=True).click()
        expect(page.get_by_role("heading", name="Courses", exact=True)).to_be_visible()

    def test_a_page_from_before_an_upgrade_asks_to_be_reloaded_and_keeps_what_is_typed(self):
        page = self.page

        def newer(route: Route) -> None:
            answer = route.fetch()
            route.fulfill(response=answer, headers={**answer.headers, "coombe-build": "newer"})

        page.get_by_role("link", name="Courses", exact=True).click()
        page.get_by_role("heading", name="Courses", exact=True).wait_for()
        expect(page.get_by_text("Coombe was upgraded.")).to_be_hidden()
        page.route("**/api/v1/plans/**", newer)
        page.get_by_role("link", name="Plan", exact=True).click()
        expect(page.get_by_text("Coombe was upgraded. Save what you typed, then reload.")).to_be_visible()
        self.assertEqual(violations(page), [])
        page.unroute_all()
        page.get_by_role("button", name="Reload").click()
        expect(page.get_by_text("Coombe was upgraded.")).to_be_hidden()

    def test_every_page_has_a_title_of_its_own(self):
        page = self.page
        car = Car.objects.create(name="Vireo")
        for path, title in (
            ("/runs", "Runs · Coombe"),
            ("/cars", "Cars · Coombe"),
            (f"/cars/{car.pk}", "Vireo · Coombe"),
            ("/record", "Record · Coombe"),
            ("/devices", "Devices · Coombe"),
            ("/compare/new", "Compare · Coombe"),
        ):
            page.goto(path)
            expect(page).to_have_title(title)


class KeysTest(FaultsCase):
    def strip(self) -> Recorder:
        setup = SetupFactory()
        recorder = Recorder.objects.create(name="Car one", setup=setup, started_by=self.person)
        log = LogFactory(sha256=None)
        facts = {"recorder": recorder, "log": log, "began_at": datetime(2026, 5, 9, 9, tzinfo=UTC)}
        Recording.objects.create(setup=setup, started_by=self.person, **facts)
        RunFactory(log=log, setup=setup, sixty_s=3.9)
        return recorder

    def test_a_key_that_the_server_fails_on_is_told_and_holds_back_none_behind_it(self):
        page, recorder = self.page, self.strip()
        failed: list[str] = []

        def answer(route: Route) -> None:
            key = route.request.post_data_json
            if key["action"] == "keep":
                failed.append(key["id"])
                route.fulfill(status=500, content_type="application/problem+json", body=PROBLEM)
            else:
                route.continue_()

        page.route("**/key-presses/", answer)
        page.goto(f"/record/{recorder.pk}")
        expect(page.get_by_test_id("decision")).to_have_text("Undecided")
        page.keyboard.press("k")
        page.keyboard.press("5")
        expect(page.get_by_text("Something failed in the server.")).to_be_visible()
        expect(page.get_by_test_id("decision")).to_have_text("Void: traffic")
        self.assertEqual((len(set(failed)), len(failed)), (1, 5))
        self.assertEqual(list(Press.objects.values_list("action", flat=True)), ["void"])

    def test_enter_on_a_button_presses_it_and_does_nothing_else(self):
        page, recorder = self.page, self.strip()
        page.goto(f"/record/{recorder.pk}")
        button = page.get_by_role("button", name="k keep")
        button.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_test_id("decision")).to_have_text("Kept")
        recorder.refresh_from_db()
        self.assertFalse(recorder.wanted)

    def test_shortcuts_of_one_key_are_switched_off_and_stay_off(self):
        page = self.page
        page.keyboard.press("?")
        switch = page.get_by_role("switch", name="Shortcuts of one key")
        expect(switch).to_be_checked()
        switch.click()
        page.keyboard.press("Escape")
        expect(switch).to_be_hidden()
        page.reload()
        expect(page.get_by_role("heading", name="Runs", exact=True)).to_be_visible()
        page.keyboard.press("c")
        page.keyboard.press("?")
        expect(page).to_have_url(re.compile("/runs$"))
        expect(page.get_by_role("dialog")).to_have_count(0)


class CompareTest(FaultsCase):
    def test_a_name_typed_quickly_keeps_its_letters_and_the_groups_their_runs(self):
        page = self.page
        setup = SetupFactory(car__name="Vireo", name="as it is")
        for time in (4.0, 4.1, 4.2, 4.3):
            RunFactory(setup=setup, sixty_s=time)
        page.goto("/compare/new")
        page.get_by_role("combobox", name="Only setup").click()
        page.locator(".ant-select-item-option", has_text="Vireo").last.click()
        page.get_by_role("button", name="Add 4 to before").click()
        page.get_by_label("Name of group 1").fill("")
        page.get_by_label("Name of group 1").press_sequentially("a name of many letters")
        expect(page.get_by_label("Name of group 1")).to_have_value("a name of many letters")
        expect(page.locator(".group-box").first).to_contain_text("4 runs")
        self.assertIn("a+name+of+many+letters", page.url.replace("%20", "+"))

    def test_the_sentence_about_the_gap_names_the_group_of_the_pair_that_is_chosen(self):
        setup = SetupFactory()
        comparison = Comparison.objects.create(
            title="Which?", measure="0-60 mph", clock="rollout", created_by=self.person
        )
        for position, name in enumerate(("as it was", "software", "wheels")):
            trace = simulate(SCENARIOS["five-runs"], 30 + position).trace
            dated = replace(trace, start_utc=trace.start_utc + timedelta(days=position))
            runs = import_log(f"{name}.nmea", write_log(dated, "nmea"), setup, self.person, {}).log.runs.all()
            Group.objects.create(comparison=comparison, position=position, name=name).runs.set(runs)
        page = self.page
        page.goto(f"/compare/{comparison.pk}")
        expect(page.get_by_text(re.compile("Software is .+ if both start together"))).to_be_visible()
        page.get_by_role("row", name=re.compile("wheels")).get_by_role("button").click()
        expect(page.get_by_text(re.compile("Wheels is .+ if both start together"))).to_be_visible()


class StaleTest(FaultsCase):
    def test_weather_that_is_corrected_moves_power_and_what_waits_is_shown(self):
        page = self.page
        setup = SetupFactory(car__test_mass_kg=1900)
        run = import_log("day.nmea", log_bytes(), setup, self.person, {}).log.runs.get(kind="standing")
        page.goto(f"/runs/{run.pk}")
        power = page.locator("section", has=page.get_by_role("heading", name="Power at the wheels"))
        expect(power).to_contain_text("kW")
        before = power.locator("strong").first.inner_text()
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Wind", exact=True).fill("30")
        page.get_by_label("Wind from").fill("0")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(power.locator("strong").first).not_to_have_text(before)
        expect(page.get_by_text("1 run is being timed again")).to_be_visible()
        Run.objects.update(stale=False)
        expect(page.get_by_text("1 run is being timed again")).to_be_hidden()


class AdministratorTest(BrowserTest):
    def test_devices_are_added_by_an_administrator_and_what_may_not_be_opened_is_told(self):
        UserFactory(username="admin", role=Role.ADMINISTRATOR)
        page = self.page
        self.log_in(page, "admin", PASSWORD)
        page.goto("/devices")
        page.get_by_role("button", name="Add a device").click()
        page.get_by_label("Name", exact=True).fill("On the windshield")
        page.get_by_label("Serial port").fill("/etc/passwd")
        page.get_by_role("button", name="Add device").click()
        expect(page.get_by_text("Not a serial port that may be opened")).to_be_visible()
        page.get_by_label("Serial port").fill("/dev/ttyACM0")
        page.get_by_role("button", name="Add device").click()
        expect(page.get_by_role("cell", name="/dev/ttyACM0 at 115200 baud")).to_be_visible()
        self.assertEqual(Device.objects.get().name, "On the windshield")
        self.assertEqual(violations(page), [])

    def test_recordings_that_could_not_be_stored_are_listed_and_tried_again(self):
        person = UserFactory(username="tester")
        recording = Recording.objects.create(
            name="Car one",
            setup=SetupFactory(),
            started_by=person,
            began_at=datetime(2026, 5, 9, 9, tzinfo=UTC),
            stopped_at=datetime(2026, 5, 9, 10, tzinfo=UTC),
            trouble="1 of 2 runs could not be stored: ValueError: x.",
        )
        page = self.page
        self.come_in(page, "tester")
        page.goto("/record")
        expect(page.get_by_role("heading", name="1 recording could not be stored")).to_be_visible()
        page.get_by_role("button", name="Try again").click()
        expect(page.get_by_role("heading", name="Being stored")).to_be_visible()
        recording.refresh_from_db()
        self.assertEqual(recording.trouble, "")

    def test_a_password_is_changed(self):
        person = UserFactory(username="tester")
        page = self.page
        self.come_in(page, "tester")
        page.get_by_role("button", name="Account of tester").click()
        page.get_by_role("menuitem", name="Change password").click()
        page.get_by_label("Current password").fill(PASSWORD)
        page.get_by_label("New password", exact=True).fill("quite-another-one")
        page.get_by_label("New password again").fill("quite-another-one")
        page.get_by_role("button", name="Change password").click()
        expect(page.get_by_text("Your password is changed")).to_be_visible()
        person.refresh_from_db()
        self.assertTrue(person.check_password("quite-another-one"))
