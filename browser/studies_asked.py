"""Steps on the demo's season: studies: the gallery, every kind's answer, a new one, all cars."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from driving import BrowserTest
from studies.models import Study, TableView

# What the first sentence of every kind says of what the demo's cars were made to do.
ANSWERS = {
    "How do they hold up": r"Marlet: From 90 to 10 % .* with a step of \+0\.\d\d s .* at 6\d %",
    "What is a warm battery worth": r"^−0\.0\d\d s ± .* for each kelvin warmer",
    "Can the Corin repeat it": r"No change from pass to pass is shown",
    "Do brakes hold": r"Marlet: Fades: \+0\.\d\d m",
    "Three tires": r"Summer has the best mean.*winter longer by .*, clear",
    "Three cars from 30 mph": r"Vireo: 30-70 mph in 3\.\d\d s",
    "modes do": r"Keen has the best mean.*Keen faster by .*, clear",
    "sprint cost": r"\d+ Wh ± \d+ Wh taken",
    "windshield and roof": r"Roof shows \+0\.0\d\d ± .* beside windshield",
    "What does 100 on the dash mean": r"An indicated 62 mph \(100 km/h\) is a true 60 mph",
    "The Skerry's year": r"A jump of −0\.\d\d .* about 2026-0[67]",
    "Figure-eight": r"Best of 5 laps: 25\.\d\d s",
}


class Studies(BrowserTest):
    """What a test asks of the saved studies and of new ones."""

    def every_study_answers_and_a_new_one_is_made(self) -> None:
        self.every_kind_says_what_the_cars_were_made_to_do()
        self.a_study_is_made_from_the_gallery_and_a_run_left_out()
        self.what_has_no_answer_says_what_to_do()
        self.all_cars_are_sorted_filtered_and_a_view_is_kept()
        self.an_own_measure_joins_them()
        self.a_plan_leads_to_what_its_runs_say()

    def every_kind_says_what_the_cars_were_made_to_do(self) -> None:
        page = self.page
        page.goto("/studies")
        saved = page.get_by_role("region", name="Saved studies")
        addresses = {title: saved.get_by_role("link", name=title).get_attribute("href") for title in ANSWERS}
        for title, says in ANSWERS.items():
            page.goto(addresses[title])
            answer = page.get_by_role("region", name="Answer")
            expect(answer.locator(".finding").first).to_have_text(re.compile(says.replace(" ", r"\s")), timeout=20_000)
            expect(answer.locator("svg").first).to_be_visible()

    def a_study_is_made_from_the_gallery_and_a_run_left_out(self) -> None:
        page = self.page
        page.goto("/studies")
        page.get_by_role("list", name="Kinds of studies").get_by_role("link", name="Braking series").click()
        self.pick("Car", "Marlet")
        page.get_by_label("From day").fill("2026-08-22")
        page.get_by_label("To day").fill("2026-08-22")
        finding = page.get_by_role("region", name="Answer").locator(".finding").first
        expect(finding).to_have_text(re.compile("Fades"))
        runs = page.get_by_role("table", name="Runs")
        expect(page.get_by_text("6 of 6 count")).to_be_visible()
        runs.get_by_role("button", name=re.compile("Leave out run")).first.click()
        page.get_by_label("Reason").fill("a gust")
        page.get_by_role("button", name="Leave out", exact=True).click()
        expect(runs.get_by_text("left out: a gust")).to_be_visible()
        expect(page.get_by_text("5 of 6 count")).to_be_visible()
        page.get_by_label("Title").fill("Marlet without the gust")
        page.get_by_role("button", name="Save study").click()
        expect(page.get_by_role("heading", name="Marlet without the gust")).to_be_visible()
        self.assertEqual(Study.objects.get(title="Marlet without the gust").left_out.get().reason, "a gust")

    def what_has_no_answer_says_what_to_do(self) -> None:
        page = self.page
        page.goto("/studies/new?kind=modes")
        self.pick("Car", "Lumen")
        self.pick("Setup", "Power unlock")
        expect(page.get_by_role("heading", name="Nothing can be said yet")).to_be_visible()
        expect(page.get_by_role("alert").first).to_contain_text("it takes at least two")

    def all_cars_are_sorted_filtered_and_a_view_is_kept(self) -> None:
        page = self.page
        page.goto("/all-cars")
        table = page.get_by_role("table", name="All cars")
        rows = table.locator("tbody tr")
        expect(rows.first).to_contain_text("Skerry")
        table.get_by_role("button", name="0-60 mph, s").first.click()
        expect(rows.first).to_contain_text(re.compile("Corin|Lumen"))
        page.get_by_label("Filter").fill("winter")
        expect(rows).to_have_count(2)
        page.get_by_label("Filter").fill("")
        page.get_by_role("button", name="Stops by tire").click()
        expect(rows.first).to_contain_text("best")
        page.get_by_label("Name of the view").fill("Mine")
        page.get_by_role("button", name="Save view").click()
        expect(page.get_by_role("button", name="Mine", exact=True)).to_be_visible()
        self.assertEqual(TableView.objects.get(name="Mine").sort, "60-0 mph|speed")

    def an_own_measure_joins_them(self) -> None:
        page = self.page
        page.goto("/studies/own-measures")
        value = page.get_by_role("region", name="Enter a value").get_by_role("textbox", name=re.compile("Value$"))
        value.fill("68,4")
        self.pick("Setup", "Skerry, From new")
        page.get_by_role("button", name="Add value").click()
        expect(page.get_by_text("A valid number is required.")).to_be_visible()
        value.fill("68.4")
        page.get_by_role("button", name="Add value").click()
        expect(page.get_by_role("cell", name="68.4 dB")).to_be_visible()

    def a_plan_leads_to_what_its_runs_say(self) -> None:
        page = self.page
        page.goto("/plans")
        page.get_by_role("link", name="Did update 7.2 change 0-60?").click()
        page.get_by_role("link", name="What its runs say").click()
        expect(page.get_by_test_id("verdict")).to_have_text("faster", timeout=20_000)

    def pick(self, label: str, name: str) -> None:
        """One of a list that opens."""
        self.page.get_by_role("main").get_by_role("combobox", name=re.compile(f"{label}$")).click()
        self.page.locator(".ant-select-dropdown:visible").get_by_title(name, exact=True).click()
