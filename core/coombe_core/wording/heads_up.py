"""Who was ahead when two cars ran side by side, and who moved first."""

from __future__ import annotations

from coombe_core.comparing.heads_up import Ahead
from coombe_core.uncertainty import Value


def ahead_sentence(found: Ahead, first: str, second: str) -> str:
    """Say who was ahead at a distance, and by how long; the cars by their names.

    >>> ahead_sentence(Ahead("1/4 mile", 402.336, Value(-0.25, 0.04), 9.5), "Larch", "Tarn")
    'Tarn ahead by 0.25 s ± 0.04 s'
    >>> ahead_sentence(Ahead("60 ft", 18.288, Value(0.02, 0.04), 0.3), "Larch", "Tarn")
    'Too close to call: 0.02 s ± 0.04 s'
    """
    apart = _apart(found.gap_s)
    if not found.shown:
        return f"Too close to call: {apart}"
    return f"{first if found.gap_s.value > 0 else second} ahead by {apart}"


def moved_first_sentence(left_first_s: Value, first: str, second: str) -> str:
    """Say which car moved first, or that nothing shows it.

    >>> moved_first_sentence(Value(0.31, 0.08), "Larch", "Tarn")
    'Larch moved first, by 0.31 s ± 0.08 s.'
    """
    apart = _apart(left_first_s)
    if abs(left_first_s.value) <= left_first_s.u95:
        return f"Which car moved first is too close to call: {apart}."
    return f"{first if left_first_s.value > 0 else second} moved first, by {apart}."


def reaction_sentence(reaction_s: Value, name: str) -> str:
    """Say how long a driver took from the signal to first movement.

    >>> reaction_sentence(Value(0.42, 0.12), "Larch")
    'Larch moved 0.42 s ± 0.12 s after the signal.'
    >>> reaction_sentence(Value(-0.42, 0.12), "Larch")
    'Larch moved 0.42 s ± 0.12 s before the signal.'
    """
    word = "after" if reaction_s.value >= 0 else "before"
    return f"{name} moved {_apart(reaction_s)} {word} the signal."


def _apart(found_s: Value) -> str:
    return f"{abs(found_s.value):.2f} s ± {found_s.u95:.2f} s"
