"""A report on paper and on screen: one HTML file that needs neither network nor script, and a PDF of the same page."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from datetime import datetime
from functools import cache
from pathlib import Path

from django.conf import settings
from django.template.loader import render_to_string

from reports.composing import Composed
from reports.models import Report

HERE = Path(__file__).parent / "templates" / "reports"
SIZES = {"letter": "Letter", "a4": "A4"}


def html_of(report: Report, made: Composed, number: int, at: datetime, by: str, changes: Sequence[str]) -> str:
    """The report as one file. `number` is that of its version, 0 of one that was not published."""
    published = f"Version {number}, {at:%Y-%m-%d %H:%M} UTC, by {by}" if number else "Not published yet"
    return render_to_string(
        "reports/report.html",
        {
            "content": made.content,
            "parts": [(part.content, part.pictures) for part in made.parts],
            "published": published,
            "changes": changes,
            "style": style(SIZES[report.paper]),
        },
    )


def style(size: str = "Letter") -> str:
    """The style sheet with its font inside."""
    return f"{_font()}{(HERE / 'report.css').read_text()}\n@page {{ size: {size}; }}"


@cache
def _font() -> str:
    """The face that the screens have, as they were built; without one the reader's own."""
    found = sorted(settings.WEB_BUILD.glob("assets/public-sans-latin-wght-normal-*.woff2"))
    if not found:
        return ""
    data = base64.b64encode(found[0].read_bytes()).decode()
    source = f"url(data:font/woff2;base64,{data}) format('woff2')"
    return f"@font-face {{ font-family: 'Public Sans'; font-weight: 100 900; src: {source}; }}\n"


def pdf_of(html: str) -> bytes:
    """The page on paper. Nothing is fetched for it: all that it shows is in it."""
    from weasyprint import HTML  # type: ignore[import-untyped]  # half a second, for whoever publishes
    from weasyprint.urls import URLFetcher  # type: ignore[import-untyped]

    inside = URLFetcher(allowed_protocols=["data"], allow_redirects=False)
    data: bytes = HTML(string=html, url_fetcher=inside).write_pdf(pdf_tags=True)
    return data
