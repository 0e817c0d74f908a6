"""Trials against known truth, and benchmarks: they make the tables of docs/.

accuracy  error and coverage of measures
method    errors of the comparison
bench     speed and memory
"""

__all__ = ["accuracy", "bench", "method"]
