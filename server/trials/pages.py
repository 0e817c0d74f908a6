"""How soon pages can be used with many runs in the database: a real web server, a real browser."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from playwright.sync_api import BrowserContext, Page, ViewportSize, sync_playwright

from comparisons.models import Comparison
from runs.models import Log, Run
from trials.pace import NOTE, Pace
from trials.served import Web

CHROMIUM = "/usr/bin/chromium-headless-shell"
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]
DESK: ViewportSize = {"width": 1280, "height": 800}
USABLE_S = 1.0
VISITS = 12
WORKERS = 2
WARMING = 2 * WORKERS  # visits until each worker has very likely answered everything once
QUIET_MS = 400  # nothing was drawn and nothing came for so long: the page is drawn

# Notes when something was last added to the page, and when its largest content was painted.
NOTING = """
window.drawnAt = 0;
new MutationObserver((changes) => {
    if (changes.some((change) => change.addedNodes.length > 0))
        requestAnimationFrame(() => { window.drawnAt = performance.now(); });
}).observe(document, { childList: true, subtree: true });
new PerformanceObserver((seen) => { window.largestAt = seen.getEntries().at(-1).startTime; })
    .observe({ type: "largest-contentful-paint", buffered: true });
"""
DRAWN = f"""() => {{
    const came = Math.max(0, ...performance.getEntriesByType("resource").map((each) => each.responseEnd));
    return window.drawnAt > 0 && !document.querySelector(".ant-spin-spinning")
        && performance.now() - Math.max(window.drawnAt, came) > {QUIET_MS};
}}"""
WHEN_MS = "() => Math.max(window.drawnAt, window.largestAt ?? 0)"
# How long a key that is pressed waits until the frame after it is painted.
LISTENING = """() => {
    window.answered = new Promise((done) => document.addEventListener("keydown", (event) =>
        requestAnimationFrame(() => setTimeout(() => done(performance.now() - event.timeStamp))), { once: true }));
}"""


def pages() -> Iterator[Pace]:
    """Open every page many times as somebody who was there before; how long until it is drawn and answers a key."""
    addresses = _addresses()  # the browser's driver runs a loop, in which Django asks no database
    web = Web(workers=WORKERS)
    address = f"http://127.0.0.1:{web.port}"
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
            for what, path in addresses.items():
                context = browser.new_context(viewport=DESK, base_url=address)
                context.add_init_script(NOTING)
                context.add_cookies(
                    [{"name": name, "value": value, "url": address} for name, value in web.asker.cookies.items()]
                )
                yield _opened(context, what, path)
                context.close()
    finally:
        web.stop()


def _addresses() -> dict[str, str]:
    """Each page with its address."""
    run = Run.objects.exclude(notes__startswith=NOTE).filter(kind="standing").earliest("pk")
    return {
        "home": "/",
        "cars": "/cars",
        "a car": f"/cars/{run.setup.car_id}",
        "courses": "/courses",
        "plans": "/plans",
        "a new plan": "/plans/new",
        "recorders": "/record",
        "devices": "/devices",
        "runs": "/runs",
        "runs of one car": f"/runs?car={run.setup.car_id}",
        "runs by a measure": "/runs?sort=0-60%20mph|rollout",
        "a run": f"/runs/{run.pk}",
        "its slip": f"/runs/{run.pk}/slip",
        "the grid": "/runs/grid",
        "runs to fill": "/runs/fill",
        "logs": "/logs",
        "a log": f"/logs/{Log.objects.earliest('pk').pk}",
        "studies": "/studies",
        "a new study": "/studies/new",
        "all cars": "/all-cars",
        "comparisons": "/compare",
        "choosing groups": "/compare/new",
        "quick compare": "/compare/quick",
        "a comparison of 2 x 50": f"/compare/{Comparison.objects.earliest('pk').pk}",
    }


def _opened(context: BrowserContext, what: str, path: str) -> Pace:
    """The times of one page; the first visits fill the browser's cache and each worker's, and are not counted."""
    page = context.new_page()
    taken = np.array([_visit(page, path) for _ in range(WARMING + VISITS)][WARMING:])
    return Pace(what, float(np.median(taken)), float(np.quantile(taken, 0.95)), USABLE_S)


def _visit(page: Page, path: str) -> float:
    """Seconds from the address to a page that is drawn, and from a key to the frame after it."""
    page.goto(path)
    page.wait_for_function(DRAWN)
    drawn_ms: float = page.evaluate(WHEN_MS)
    page.evaluate(LISTENING)
    page.keyboard.press("Shift")
    answered_ms: float = page.evaluate("() => window.answered")
    return (drawn_ms + answered_ms) / 1000
