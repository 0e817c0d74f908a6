"""Finding what happened in a trace, whole or fix by fix.

runs      launches, roll-ons and stops
can_data  a CAN log on the receiver's clock, and what it shows of a run
"""

__all__ = ["can_data", "runs"]
