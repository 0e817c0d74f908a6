"""Draws the gallery of studies from a running demo: .venv/bin/python browser/study_pictures.py [address]

Each is the first chart of the demo's study of that kind, as the page draws it, without words.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from chromium import CHROMIUM
from screenshots import PASSWORD

FOLDER = Path(__file__).resolve().parents[1] / "web" / "public" / "studies"
SIZE = {"width": 720, "height": 900}
TEXT = re.compile(r"<text.*?</text>", re.DOTALL)


def main(address: str) -> None:
    """One file a kind."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        page = browser.new_context(base_url=address, viewport=SIZE, color_scheme="light").new_page()
        _log_in(page)
        page.goto("/studies")
        rows = page.get_by_role("region", name="Saved studies").locator("tbody a")
        rows.first.wait_for()
        for link in [row.get_attribute("href") for row in rows.all()]:
            page.goto(link or "")
            chart = page.get_by_role("region", name="Answer").locator("svg").first
            chart.wait_for()
            kind = page.locator(".page-head .quiet").inner_text().split(",")[0]
            svg = TEXT.sub("", chart.evaluate("each => each.outerHTML"))
            (FOLDER / f"{kind.lower().replace(' ', '-')}.svg").write_text(_standing_alone(svg) + "\n")
        browser.close()


def _log_in(page: Page) -> None:
    page.goto("/runs")
    page.get_by_label("Name").fill("tester")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Log in").click()
    page.get_by_role("navigation").wait_for()


def _standing_alone(svg: str) -> str:
    """With its size as a view box, so that it fits wherever it stands."""
    width, height = (re.search(rf'{name}="(\d+)"', svg) for name in ("width", "height"))
    if width is None or height is None:
        return svg
    box = f'viewBox="0 0 {width[1]} {height[1]}"'
    return svg.replace("<svg ", f"<svg {box} ", 1)


if __name__ == "__main__":
    main(*sys.argv[1:] or ["http://127.0.0.1:8655"])
