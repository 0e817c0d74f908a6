"""An import from nothing: files dropped on any page, car and course made on the spot, and what is odd said first."""

from __future__ import annotations

import base64
from dataclasses import replace

from playwright.sync_api import expect

from cars.models import Car
from coombe_core.formats import write_log
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from courses.models import Course
from driving import BrowserTest, violations
from runs.models import Log, Run
from runs.tests.factories import UserFactory

DROP = """([name, content]) => {
    const dropped = new DataTransfer();
    dropped.items.add(new File([Uint8Array.from(atob(content), (each) => each.charCodeAt(0))], name));
    const event = new DragEvent("drop", { dataTransfer: dropped, bubbles: true, cancelable: true });
    document.querySelector("h1").dispatchEvent(event);
}"""


class ImportTest(BrowserTest):
    def test_what_is_dropped_on_any_page_becomes_runs_of_a_car_and_a_course_made_on_the_spot(self):
        UserFactory(username="tester")
        page = self.page
        self.come_in(page, "tester")
        page.goto("/plans")
        page.get_by_role("heading", name="Plans").wait_for()
        trace = simulate(SCENARIOS["five-runs"], 21).trace
        log = write_log(replace(trace, elapsed_s=trace.elapsed_s + (trace.elapsed_s > 100) * 7.0), "nmea")
        page.evaluate(DROP, ["evening.nmea", base64.b64encode(log).decode()])
        row = page.get_by_role("table", name="What was found").get_by_role("row", name="evening.nmea")
        expect(row).to_contain_text("standing starts")
        expect(row).to_contain_text("1 gap in its fixes, the longest of 7 s.")
        self.assertEqual(violations(page), [])
        page.get_by_label("Name of the car").fill("Vireo")
        page.get_by_label("Name of the setup").fill("As delivered")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_title("Vireo: As delivered")).to_be_visible()
        page.get_by_role("button", name="New course").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Name").fill("Long Ley")
        expect(dialog.get_by_label("Heading, degrees")).not_to_have_value("")
        dialog.get_by_label("Length").fill("4000")
        dialog.get_by_role("button", name="Add course").click()
        expect(page.get_by_title("Long Ley, out")).to_be_visible()
        self.assertFalse(Log.objects.exists())
        page.get_by_role("button", name="Import 1 log").click()
        expect(page.get_by_text("All of it is stored.")).to_be_visible(timeout=60_000)
        self.assertEqual(Car.objects.get().setups.get().since, trace.start_utc.date())
        courses = {course.direction: course for course in Course.objects.all()}
        self.assertEqual(set(courses), {"out", "back"})
        self.assertTrue(all(run.course == courses[run.direction] for run in Run.objects.all()))
