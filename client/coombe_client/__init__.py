"""Coombe from another program: send logs, wait for their runs, list, compare, download."""

from coombe_client.answers import Car, Comparison, Difference, Measured, Run, Setup, Upload, Verdict
from coombe_client.coombe import Coombe
from coombe_client.errors import CoombeError, NotDoneError

__all__ = [
    "Car",
    "Comparison",
    "Coombe",
    "CoombeError",
    "Difference",
    "Measured",
    "NotDoneError",
    "Run",
    "Setup",
    "Upload",
    "Verdict",
]
