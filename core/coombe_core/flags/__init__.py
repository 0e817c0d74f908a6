"""Checks of a run and of its recorded state: codes and numbers, no sentences.

flag    what a flag is (Flag, Severity)
entered questions about what a person enters (Known, questions)
run     what the fixes and the fit of a run raise
state   what was recorded about a run raises
"""

__all__ = ["entered", "flag", "run", "state"]
