"""How long from a fix's arrival at the recorder to a changed pixel: .venv/bin/python browser/latency.py [address]

Against a running demo: records with its first recorder for half a minute, a launch included, and prints percentiles.
The page notes for every glance that it drew the time after the next frame; recorder and browser share one clock.
"""

from __future__ import annotations

import sys

import numpy as np
from playwright.sync_api import Page, sync_playwright

from chromium import CHROMIUM

PASSWORD = "measured-twice"
SECONDS = 30
NOTING = """() => {
    window.drawn = [];
    const glance = document.querySelector("[data-testid=glance]");
    new MutationObserver(() => {
        const arrived = Number(glance.dataset.arrived) * 1000;
        requestAnimationFrame(() => setTimeout(() => window.drawn.push(Date.now() - arrived)));
    }).observe(glance, { attributes: true, attributeFilter: ["data-arrived"] });
}"""


def main(address: str) -> None:
    """Measure and print."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        page = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address).new_page()
        delays = np.array(_delays(page))
        browser.close()
    report = ", ".join(f"p{share} {np.percentile(delays, share):.0f} ms" for share in (50, 95, 99))
    print(f"{delays.size} glances drawn: {report}")


def _delays(page: Page) -> list[float]:
    page.goto("/runs")
    page.get_by_label("Name").fill("tester")
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Log in").click()
    page.get_by_role("heading", name="Runs", exact=True).wait_for()
    page.goto("/record")
    page.get_by_role("link", name="Simulated").first.click()
    page.get_by_test_id("word").filter(has_text="off").wait_for()
    page.keyboard.press("Enter")
    page.get_by_test_id("word").filter(has_text="staged").wait_for()
    page.evaluate(NOTING)
    page.get_by_role("button", name="launch", exact=True).click()
    page.wait_for_timeout(SECONDS * 1000)
    delays: list[float] = page.evaluate("() => window.drawn")
    page.get_by_role("button", name="Stop recording").click()
    page.get_by_test_id("word").filter(has_text="off").wait_for()
    return delays


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8642")
