"""Measured values against claims and promises, in sentences that follow a name."""

from __future__ import annotations

from coombe_core.comparing.value import Against


def claim_sentence(found: Against) -> str:
    """Say how a group's time stands to a claimed one."""
    claimed = f"the claimed {found.stated_s:.2f} s"
    if found.agrees:
        return f"agrees with {claimed}: {found.value:+.2f} s ± {found.u95:.2f}"
    word = "slower" if found.value > 0 else "quicker"
    return f"is {word} than {claimed}, by {abs(found.value):.2f} s ± {found.u95:.2f}"


def promise_sentence(found: Against) -> str:
    """Say how a measured gain stands to a promised one."""
    gain = f"{found.stated_s + found.value:.2f} s ± {found.u95:.2f}"
    if found.agrees:
        return f"the promised {found.stated_s:.2f} s lies within what was measured, {gain}"
    return f"{'more' if found.value > 0 else 'less'} than the promised {found.stated_s:.2f} s: {gain}"
