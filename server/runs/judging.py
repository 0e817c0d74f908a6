"""Flags of what was recorded about a run: its state against the plan's window, slips of unit, unseen changes."""

from __future__ import annotations

from cars.models import ChangeKind
from coombe_core.flags.flag import Flag
from coombe_core.flags.state import state_flags
from runs.models import Run

UNSEEN_CHANGES = (ChangeKind.SOFTWARE, ChangeKind.UNLOCK)
"""Changes that nobody sees from outside, so that somebody must have read in the car that they are active."""


def noted_flags(run: Run) -> list[Flag]:
    """What a run's conditions and its setup raise; the window is that of the plan whose run it was."""
    step = getattr(run, "scheduled", None)
    plan = step.day.plan if step else None
    setup = run.setup
    return state_flags(
        run.charge_before_percent,
        run.battery_temp_before_c,
        (plan.lowest_charge_percent, plan.high_charge_percent) if plan else None,
        (plan.low_battery_temp_c, plan.high_battery_temp_c) if plan else None,
        change_confirmed=setup.change not in UNSEEN_CHANGES or bool(setup.confirmed_by),
    )
