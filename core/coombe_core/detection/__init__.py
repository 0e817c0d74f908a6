"""Finding what happened in a trace, whole or fix by fix.

full_power  full power, or ordinary driving
glitches  single fixes that no car can follow
runs      launches, roll-ons and stops
can_data  a CAN log on the receiver's clock, and what it shows of a run
"""

__all__ = ["can_data", "full_power", "glitches", "runs"]
