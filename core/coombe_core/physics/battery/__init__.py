"""The traction battery.

heat    how it warms and cools, and learning that
charge  how long charging takes, and learning that
power   what it gives, from CAN data
"""

__all__ = ["charge", "heat", "power"]
