"""Measured values against claims, in sentences."""

from __future__ import annotations

from coombe_core.comparing.value import Against, PricePerTenth
from coombe_core.wording.quantities import capitalized, signed


def claim_sentence(group: str, found: Against) -> str:
    """Say how a group's time compares with a claimed one."""
    name, claimed = capitalized(group), f"the claimed {found.stated_s:.2f} s"
    if found.agrees:
        return f"{name} agrees with {claimed}: {signed(found.value, 2)} s ± {found.u95:.2f} s"
    word = "slower" if found.value > 0 else "faster"
    return f"{name} is {word} than {claimed} by {abs(found.value):.2f} s ± {found.u95:.2f} s"


def other_clock_sentence(claimed_s: float, clock: str, asked: str) -> str:
    """Say why a claim is not compared; `clock` is empty where the claim states none."""
    stated = f"is on the {clock} clock, not {asked}" if clock else "states no clock"
    return f"The claimed {claimed_s:.2f} s {stated}, so it is not compared"


def claimed_gain_sentence(found: Against) -> str:
    """Say how a measured gain compares with a claimed one."""
    gain = f"{found.stated_s + found.value:.2f} s ± {found.u95:.2f} s"
    if found.agrees:
        return f"{gain}, which agrees with the claimed {found.stated_s:.2f} s"
    return f"{gain}, {'more' if found.value > 0 else 'less'} than the claimed {found.stated_s:.2f} s"


def price_sentence(cost: PricePerTenth, currency: str) -> str:
    """Say what a tenth of a second cost, with its limits.

    >>> price_sentence(PricePerTenth(820.4, 650.0, None), "EUR")
    'A tenth of a second cost 820 EUR: at least 650, with no upper limit.'
    """
    limits = "with no upper limit" if cost.most is None else f"at most {cost.most:.0f}"
    return f"A tenth of a second cost {f'{cost.value:.0f} {currency}'.strip()}: at least {cost.least:.0f}, {limits}."
