"""Error and coverage of every measure on simulated drives.

command  coombe accuracy
trials   the drives
report   the page
"""

__all__ = ["command", "report", "trials"]
