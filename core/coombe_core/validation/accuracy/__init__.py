"""Error and coverage of every measure on simulated drives.

command   coombe accuracy
trials    the drives
variants  cars, brakes, receivers and courses beyond the usual
report    the page
"""

__all__ = ["command", "report", "trials", "variants"]
