"""Takes the pictures in docs/screenshots from a running demo: .venv/bin/python browser/screenshots.py [address]"""

from __future__ import annotations

import sys
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from chromium import CHROMIUM

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"
PASSWORD = "measured-twice"
DESK, HAND = (1280, 800), (390, 844)
VIEWS = (
    ("home", "/", DESK, "light"),
    ("plan-new", "/plans/new", DESK, "light"),
    ("day", "under way", DESK, "light"),
    ("day-sheet", "day sheet", DESK, "light"),
    ("day-not-met", "planned", DESK, "light"),
    ("strip", "strip", DESK, "light"),
    ("strip-phone", "strip", HAND, "dark"),
    ("heads-up", "heads-up", DESK, "light"),
    ("runs", "/runs", DESK, "light"),
    ("run-sheet", "/runs/1", DESK, "light"),
    ("import", "/import", DESK, "light"),
    ("compare-choose", "/compare/new", DESK, "light"),
    ("compare-real", "/compare/1", DESK, "light"),
    ("compare-not-alike", "/compare/3", DESK, "light"),
    ("report", "/reports/1", DESK, "light"),
    ("studies", "/studies", DESK, "light"),
    ("study-sweep", "/studies/1", DESK, "light"),
    ("all-cars", "/all-cars", DESK, "light"),
)


def main(address: str) -> None:
    """Every view once, at the size and in the theme that it is listed with."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        for name, path, size, scheme in VIEWS:
            page = _open(browser, address, size, scheme)
            if path == "/import":
                _choose_files(page)
            elif path == "strip":
                _record(page)
            elif path == "heads-up":
                _side_by_side(page)
            elif path in ("under way", "planned", "day sheet"):
                _open_day(page, path)
            elif path != "/import":
                page.goto(path)
            page.get_by_role("heading").first.wait_for()
            if path not in ("strip", "heads-up"):  # those never come to rest
                _settled(page)
            if name == "compare-adjusted":
                _adjust(page)
            page.mouse.move(0, 0)
            page.screenshot(path=FOLDER / f"{name}.png", animations="disabled")
            page.context.close()
        browser.close()


def _settled(page: Page) -> None:
    """Nothing is under way any more: no request, and nothing that says what it waits for."""
    page.wait_for_load_state("networkidle")
    expect(page.locator(".ant-spin-spinning")).to_have_count(0, timeout=60_000)


def _choose_files(page: Page) -> None:
    """A log with a gap, and a file that is none, looked at before anything is stored."""
    sys.path.insert(0, str(FOLDER.parents[1] / "core"))
    from coombe_core.formats import write_log
    from coombe_core.simulating.scenarios import SCENARIOS, simulate

    lines = write_log(simulate(SCENARIOS["five-runs"], 77).trace, "nmea").splitlines(keepends=True)
    files = {"evening.nmea": b"".join(lines[:3000] + lines[3400:]), "notes.txt": b"hello"}
    page.goto("/import")
    page.get_by_label("Log files").set_input_files(
        [{"name": name, "mimeType": "text/plain", "buffer": data} for name, data in files.items()]
    )
    page.get_by_role("row", name="notes.txt").get_by_text("no known format").first.wait_for()


def _adjust(page: Page) -> None:
    """The comparison that only looked real, at like charge and heat."""
    page.get_by_role("button", name="Edit groups").click()
    for factor in ("charge", "battery temperature"):
        page.get_by_role("switch", name=f"Adjust for {factor}").click()
        page.get_by_role("row", name=factor).first.filter(has_text="removed").wait_for()
    _settled(page)
    page.evaluate("window.scrollTo(0, 0)")


def _record(page: Page) -> None:
    """The strip screen of the car whose day is under way, after a launch."""
    _start(page, "Simulated Vireo")
    page.get_by_role("button", name="launch", exact=True).click()
    page.get_by_test_id("word").filter(has_text="done").wait_for(timeout=60_000)
    page.get_by_test_id("stop-result").wait_for(timeout=60_000)
    page.evaluate("window.scrollTo(0, 0)")


def _start(page: Page, name: str) -> None:
    page.goto("/record")
    page.get_by_role("link", name=name).click()
    page.get_by_test_id("word").wait_for()
    page.keyboard.press("Enter")
    page.get_by_test_id("word").filter(has_text="staged").wait_for(timeout=60_000)


def _side_by_side(page: Page) -> None:
    """Both simulated devices from one signal."""
    beside = [page.context.new_page() for _ in range(2)]
    for each, name in zip(beside, ("Simulated Vireo", "Simulated Lumen"), strict=True):
        _start(each, name)
    page.goto("/record")
    page.get_by_role("button", name="Arm heads-up").click()
    page.get_by_role("heading", name="Heads-up", exact=True).wait_for()
    page.keyboard.press("g")
    page.get_by_text("Go", exact=True).wait_for()
    for each in beside:
        each.get_by_role("button", name="launch", exact=True).click()
    page.get_by_test_id("ahead").wait_for(timeout=60_000)
    for each in beside:
        each.get_by_role("button", name="Stop recording").click()
        each.get_by_test_id("word").filter(has_text="off").wait_for()
        each.close()


def _open_day(page: Page, state: str) -> None:
    """The demo's day in a state; or the sheet of the one under way."""
    page.goto("/plans")
    wanted = "under way" if state == "day sheet" else state
    page.locator("td div", has_text=wanted).get_by_role("link").first.click()
    if state == "day sheet":
        page.get_by_role("link", name="Day sheet").click()
    page.get_by_role("heading", name="Timetable" if state == "day sheet" else "Charge and heat").wait_for()


def _open(browser: Browser, address: str, size: tuple[int, int], scheme: str) -> Page:
    viewport = {"width": size[0], "height": size[1]}
    page = browser.new_context(viewport=viewport, color_scheme=scheme, base_url=address).new_page()
    page.goto("/runs")
    page.get_by_label("Name").fill("tester")
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Log in").click()
    page.get_by_role("heading", name="Runs", exact=True).wait_for()
    return page


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8642")
