"""Picture cards of a published version: one a verdict, study or slip, for where a page can't go."""

from __future__ import annotations

from typing import Any

from reports import pictures
from reports.models import Version


def card_of(version: Version, place: int = 0) -> bytes:
    """The card of one of its parts, as PNG. Raises IndexError where it has no such part."""
    cards = cards_of(version)
    about = cards[place]
    foot = f"{version.report.title}, version {version.number}, {version.published_at:%Y-%m-%d}. Measured with Coombe."
    return pictures.card(about["title"], about["answer"], about["word"], foot, about["pair"], about["unit"])


def cards_of(version: Version) -> list[dict[str, Any]]:
    """What its cards show, in the order of the report; texts have none."""
    return [part["card"] for part in version.content["parts"] if part.get("card")]
