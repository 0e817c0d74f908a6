"""Groups against the car's claims, and a change against its price and what was promised of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from comparisons.gathering import Gathered, Question, StoredRun
from coombe_core.comparing.comparison import Comparison, Group
from coombe_core.comparing.statistics.interval import Difference
from coombe_core.comparing.value import Against, against_claim, against_promise, price_per_tenth
from coombe_core.wording.value import claim_sentence, promise_sentence


def claims(rows: Sequence[StoredRun], arm: Group, question: Question, field: str) -> list[dict[str, Any]]:
    """What the group says of each claim for its car, measure and clock; a claim without a clock is never compared."""
    cars = {row.run.set_up.car_id: row.run.set_up.car for row in rows}
    if len(cars) != 1 or field != "time_s":
        return []
    (car,) = cars.values()
    found = []
    for claim in car.claims.filter(measure=question.measure.name):
        if claim.clock == question.clock:
            days = len({row.state.day for row in rows})
            compared = against_claim(arm.values, claim.value_s, None, days)
            found.append(
                {"claimed_s": claim.value_s, "source": claim.source}
                | (_against(compared, claim_sentence(compared)) if compared else {})
            )
        else:
            clock = claim.get_clock_display() or "no stated clock"
            found.append(
                {
                    "claimed_s": claim.value_s,
                    "source": claim.source,
                    "sentence": f"is not compared with the claimed {claim.value_s:.2f} s: that is on {clock}",
                    "value": None,
                    "u95": None,
                }
            )
    return found


def of_pair(gathered: Gathered, pair: Comparison, other: int) -> dict[str, Any]:
    """Price per tenth of a second, and the promise, of the setup that the other group was driven with."""
    nothing: dict[str, Any] = {"price": None, "promise": None}
    set_ups = {row.run.set_up_id: row.run.set_up for row in gathered.counting[other]}
    if len(set_ups) != 1 or gathered.field != "time_s" or pair.difference is None:
        return nothing
    (set_up,) = set_ups.values()
    promised = set_up.promised_gain_s if set_up.promised_measure == pair.measure.name else None
    return {
        "price": _price(set_up.price, set_up.currency, pair),
        "promise": _promise(pair.difference, promised) if promised else None,
    }


def _promise(found: Difference, promised_s: float) -> dict[str, Any]:
    compared = against_promise(found, promised_s)
    return _against(compared, promise_sentence(compared))


def _against(found: Against, sentence: str) -> dict[str, Any]:
    return {"value": found.value, "u95": found.u95, "sentence": sentence}


def _price(price: Any, currency: str, pair: Comparison) -> dict[str, Any] | None:
    if price is None or pair.difference is None:
        return None
    told = price_per_tenth(float(price), pair.difference)
    return None if told is None else {"currency": currency, "price": float(price), **asdict(told)}
