"""How often Python looks for garbage in a web worker."""

from __future__ import annotations

import gc

OBJECTS, YOUNG, OLD = 50_000, 20, 50


def look_seldom() -> None:
    """Leave what was imported alone, and look for cycles after many more objects than usual.

    A request makes tens of thousands of objects, nearly all of which reference counts free; looking through the whole
    heap meanwhile took longer than many an answer.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(OBJECTS, YOUNG, OLD)
