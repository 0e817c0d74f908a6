"""Groups against the car's claims, and a change against its price and the gain that was claimed for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from comparisons.gathering import Gathered, Question
from comparisons.loading import StoredRun
from coombe_core.comparing.comparison import Comparison, Group
from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.value import Against, against_claim, against_claimed_gain, price_per_tenth
from coombe_core.wording.comparison import CLOCK_WORDS
from coombe_core.wording.value import claim_sentence, claimed_gain_sentence, other_clock_sentence, price_sentence


def claims(rows: Sequence[StoredRun], group: Group, question: Question, field: str) -> list[dict[str, Any]]:
    """What the group says of each claim for its car, measure and clock; a claim without a clock is never compared."""
    cars = {row.run.setup.car_id: row.run.setup.car for row in rows}
    if len(cars) != 1 or field != "time_s":
        return []
    (car,) = cars.values()
    found = []
    for claim in car.claims.filter(measure=question.measure.name):
        if claim.clock == question.clock:
            days = len({row.state.day for row in rows})
            compared = against_claim(group.values, claim.value_s, None, days)
            found.append(
                {"claimed_s": claim.value_s, "source": claim.source}
                | (_against(compared, claim_sentence(group.name, compared)) if compared else {})
            )
        else:
            clock = claim.get_clock_display() if claim.clock else ""
            found.append(
                {
                    "claimed_s": claim.value_s,
                    "source": claim.source,
                    "sentence": other_clock_sentence(claim.value_s, clock, CLOCK_WORDS[question.clock]),
                    "value": None,
                    "u95": None,
                }
            )
    return found


def of_pair(gathered: Gathered, pair: Comparison, other: int) -> dict[str, Any]:
    """Price per tenth of a second, and the claimed gain, of the setup that the other group was driven with."""
    nothing: dict[str, Any] = {"price": None, "claimed_gain": None}
    setups = {row.run.setup_id: row.run.setup for row in gathered.counting[other]}
    if len(setups) != 1 or gathered.field != "time_s" or pair.difference is None:
        return nothing
    (setup,) = setups.values()
    claimed = setup.claimed_gain_s if setup.claimed_measure == pair.measure.name else None
    return {
        "price": _price(setup.price, setup.currency, pair),
        "claimed_gain": _claimed_gain(pair.difference, claimed) if claimed else None,
    }


def _claimed_gain(found: Difference, claimed_gain_s: float) -> dict[str, Any]:
    compared = against_claimed_gain(found, claimed_gain_s)
    return _against(compared, claimed_gain_sentence(compared))


def _against(found: Against, sentence: str) -> dict[str, Any]:
    return {"value": found.value, "u95": found.u95, "sentence": sentence}


def _price(price: Any, currency: str, pair: Comparison) -> dict[str, Any] | None:
    if price is None or pair.difference is None:
        return None
    cost = price_per_tenth(float(price), pair.difference)
    if cost is None:
        return None
    return {"currency": currency, "price": float(price), **asdict(cost), "sentence": price_sentence(cost, currency)}
