"""A slip is mended: where it is seen, in a few clicks, and taken back as easily."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import timedelta

from playwright.sync_api import expect

from accounts.models import Role
from cars.models import Setup
from comparisons.models import Comparison
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from driving import BrowserTest
from recording.models import Device, Recorder
from runs.models import Log, Run, TableLayout
from runs.retiming import retime_stale
from runs.services import import_log
from runs.tests.factories import RunFactory, SetupFactory, UserFactory


class SixRunsTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="tester")
        self.wrong = SetupFactory(name="7.1")
        self.right = SetupFactory(name="7.2", car=self.wrong.car)
        for _ in range(6):
            RunFactory(setup=self.wrong, sixty_s=4.1, battery_temp_before_c=41.0)
        self.come_in(self.page, "tester")

    def pick_six(self) -> None:
        boxes = self.page.locator("tbody tr").get_by_role("checkbox")
        boxes.first.click()
        boxes.last.click(modifiers=["Shift"])
        self.page.get_by_role("button", name="Edit 6 runs").click()

    def test_six_runs_under_the_wrong_setup_are_mended_in_six_clicks_and_taken_back(self):
        page = self.page
        self.pick_six()  # three clicks
        page.get_by_role("combobox", name="Setup").click()
        page.locator(".ant-select-item-option", has_text="7.2").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("status")).to_have_text("6 runs change. 6 are timed again in the background.")
        title = page.get_by_role("heading", name="Runs", exact=True)
        place = title.bounding_box()
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Changed 6 runs.", exact=True)).to_be_visible()
        self.assertEqual(title.bounding_box(), place)  # what is said moves nothing that is about to be touched
        self.assertEqual(Run.objects.filter(setup=self.right).count(), 6)
        page.keyboard.press("Control+z")
        expect(page.get_by_text("Undo: Changed 6 runs.", exact=True)).to_be_visible()
        self.assertEqual(Run.objects.filter(setup=self.wrong).count(), 6)

    def test_a_wrong_temperature_in_all_of_them_is_noticed_let_through_corrected_and_undone(self):
        page = self.page
        self.pick_six()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Battery before").fill("40")  # the page is in °F
        question = dialog.get_by_role("status").filter(has_text="Did you mean 40 °C (104 °F)?")
        expect(question).to_be_visible()
        dialog.get_by_role("button", name="Save").click()  # let through
        expect(page.get_by_text("Changed 6 runs.", exact=True)).to_be_visible()
        self.assertEqual({round(run.battery_temp_before_c, 2) for run in Run.objects.all()}, {4.44})
        self.pick_six()
        dialog.get_by_label("Battery before").fill("104")
        expect(dialog.get_by_role("status").filter(has_text="6 runs change")).to_be_visible()
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_role("dialog")).to_be_hidden()
        self.assertEqual({run.battery_temp_before_c for run in Run.objects.all()}, {40.0})
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("Undo: Changed 6 runs.", exact=True)).to_be_visible()
        self.assertEqual({round(run.battery_temp_before_c, 2) for run in Run.objects.all()}, {4.44})

    def test_what_was_meant_is_one_key_away(self):
        page = self.page
        page.goto(f"/runs/{Run.objects.first().pk}")
        page.get_by_role("button", name="Edit conditions").click()
        page.get_by_label("Battery before").fill("40")
        expect(page.get_by_text("Did you mean 40 °C (104 °F)?")).to_be_visible()
        page.keyboard.press("Alt+y")
        expect(page.get_by_label("Battery before")).to_have_value("104")
        expect(page.get_by_text("Did you mean")).to_have_count(0)

    def test_many_are_voided_for_a_reason_and_only_what_is_touched_changes(self):
        page = self.page
        self.pick_six()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("combobox", name="Valid or void").click()
        page.locator(".ant-select-item-option", has_text=re.compile("^void$")).click()
        dialog.get_by_role("combobox", name="Why void").click()
        page.locator(".ant-select-item-option", has_text="traffic").click()
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Voided 6 runs.", exact=True)).to_be_visible()
        found = Run.objects.values_list("validity", "void_reason", "battery_temp_before_c", "setup")
        self.assertEqual(set(found), {("void", "traffic", 41.0, self.wrong.pk)})


class LogTest(BrowserTest):
    def test_a_log_is_deleted_restored_and_imported_elsewhere(self):
        person = UserFactory(username="tester")
        right = SetupFactory(name="7.2")
        data = write_log(simulate(SCENARIOS["clean-run"], 21).trace, "nmea")
        import_log("evening.nmea", data, SetupFactory(name="7.1", car=right.car), person, {})
        page = self.page
        self.come_in(page, "tester")
        page.get_by_role("link", name="Logs").click()
        page.get_by_role("link", name="evening.nmea").click()
        page.get_by_role("button", name="Delete").click()
        dialog = page.get_by_role("dialog")
        expect(dialog).to_contain_text("With it go 2 runs. You can undo this for 30 days.")
        dialog.get_by_role("button", name="Delete").click()
        expect(page.get_by_role("heading", name="No logs yet")).to_be_visible()
        self.assertFalse(Run.objects.exists())
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("link", name="evening.nmea")).to_be_visible()
        self.assertEqual(Log.objects.get().runs.count(), 2)
        page.goto("/runs")
        page.get_by_role("button", name="Import logs").click()
        page.get_by_label("Log files").set_input_files(
            [{"name": "evening.nmea", "mimeType": "text/plain", "buffer": data}]
        )
        expect(page.get_by_role("link", name="Imported already")).to_be_visible()
        self.choose(page, "Setup", "7.2")
        page.get_by_role("button", name="Import 1 log").click()
        expect(page.get_by_text("already imported, nothing stored twice")).to_be_visible()
        page.get_by_role("button", name="Move its runs to the setup chosen here").click()
        expect(page.get_by_text("2 runs change. 2 are timed again in the background.")).to_be_visible()
        self.assertEqual(right.runs.count(), 2)


class SetupsTest(BrowserTest):
    def setUp(self):
        super().setUp()
        self.person = UserFactory(username="tester")
        self.setup = SetupFactory(name="7.1", car__test_mass_kg=1900, tire_pressure_kpa=290)
        self.come_in(self.page, "tester")

    def edit(self, page):
        page.goto(f"/cars/{self.setup.car_id}")
        page.get_by_role("button", name="Edit 7.1").click()
        return page.get_by_role("dialog")

    def test_it_is_corrected_its_runs_are_timed_again_and_a_saved_comparison_says_so(self):
        page = self.page
        for seed in (31, 32):
            trace = simulate(SCENARIOS["five-runs"], seed).trace
            data = write_log(replace(trace, start_utc=trace.start_utc + timedelta(days=seed)), "nmea")
            import_log(f"{seed}.nmea", data, self.setup, self.person, {})
        runs = list(Run.objects.order_by("pk").values_list("pk", flat=True))
        groups = [{"name": "before", "runs": runs[:5]}, {"name": "after", "runs": runs[5:]}]
        asked = {"title": "Same day?", "measure": "0-60 mph", "clock": "rollout", "groups": groups}
        made = page.evaluate(
            """async (asked) => {
                const token = document.cookie.split("csrftoken=")[1].split(";")[0];
                const headers = { "Content-Type": "application/json", "X-CSRFToken": token };
                const given = { method: "POST", headers, body: JSON.stringify(asked) };
                return (await fetch("/api/v1/comparisons/", given)).status;
            }""",
            asked,
        )
        self.assertEqual(made, 201)
        dialog = self.edit(page)
        expect(dialog.get_by_label("This was typed wrong: correct it")).to_be_checked()
        dialog.get_by_label("Mass, if this changed it").fill("4000")  # lb
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_contain_text("had been typed wrong, say so")
        dialog.get_by_label("What had been typed wrong").fill("seats were out")
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Corrected setup")).to_be_visible()
        self.assertEqual(Run.objects.filter(stale=True).count(), 10)
        retime_stale()
        self.assertEqual(Run.objects.filter(stale=True).count(), 0)
        page.goto(f"/compare/{Comparison.objects.get().pk}")
        expect(page.get_by_text("10 of its runs were corrected since: Corrected setup")).to_be_visible()

    def test_two_edit_it_at_once_and_the_second_chooses_field_by_field(self):
        UserFactory(username="rowan")
        other = self.open_page()
        self.come_in(other, "rowan")
        mine, theirs = self.edit(self.page), self.edit(other)
        theirs.get_by_label("Software version").fill("7.1.4")
        theirs.get_by_label("Tire size").fill("255/40 R20")
        theirs.get_by_role("button", name="Save").click()
        expect(theirs).to_be_hidden()
        mine.get_by_label("Software version").fill("7.1.3")
        mine.get_by_label("Tire size").fill("245/45 R19")
        mine.get_by_role("button", name="Save").click()
        expect(mine).to_contain_text("Someone else changed this in the meantime")
        mine.get_by_role("radio", name="Theirs: 7.1.4").check()
        mine.get_by_role("button", name="Save what is chosen").click()
        expect(mine).to_be_hidden()
        now = Setup.objects.get()
        self.assertEqual((now.software_version, now.tire_size), ("7.1.4", "245/45 R19"))


class SmallThingsTest(BrowserTest):
    """What is made once and seldom looked at can be mended on screen too."""

    def setUp(self):
        super().setUp()
        self.person = UserFactory(username="keeper", role=Role.ADMINISTRATOR)
        self.come_in(self.page, "keeper")

    def test_columns_that_were_named_wrong_are_named_again(self):
        page = self.page
        layout = TableLayout.objects.create(headings_sha256="0" * 64, named_by=self.person)
        for heading, meaning in (("Zeit [s]", "elapsed_s"), ("v Fahrzeug", "speed_mph")):
            layout.columns.create(heading=heading, meaning=meaning)
        page.goto("/logs?part=layouts")
        page.get_by_role("button", name="Edit columns Zeit [s], v Fahrzeug").click()
        self.choose(page, "v Fahrzeug", "speed, km/h")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_role("region", name="Named columns")).to_contain_text("v Fahrzeug: speed, km/h")
        expect(page.get_by_text("Changed columns Zeit [s], v Fahrzeug.")).to_be_visible()

    def test_a_recorder_is_deleted_and_a_saved_comparison_renamed(self):
        page = self.page
        run = RunFactory(sixty_s=4.1)
        device = Device.objects.create(name="Roof", kind="receiver", path="/dev/ttyACM0")
        Recorder.objects.create(name="Left lane", setup=run.setup, receiver=device)
        asked = {"title": "Quiker?", "measure": "0-60 mph", "clock": "rollout"}
        saved = Comparison.objects.create(created_by=self.person, **asked)
        for place, name in enumerate(("before", "after")):
            saved.groups.create(position=place, name=name, typed_values=[4.1, 4.2, 4.1], source="a friend")
        page.goto("/record")
        page.get_by_role("button", name="Edit Left lane").click()
        page.get_by_role("button", name="Delete Left lane").click()
        page.get_by_role("tooltip").get_by_role("button", name="Delete").click()
        expect(page.get_by_role("region", name="Left lane")).to_have_count(0)
        page.goto(f"/compare/{saved.pk}")
        page.get_by_role("button", name="Rename Quiker?").click()
        page.get_by_role("textbox", name="Name").fill("Quicker?")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("heading", name="Quicker?")).to_be_visible()
