"""The job itself: from a receiver's log to times with their uncertainty, and from runs to a verdict."""

__version__ = "0.9.0"
