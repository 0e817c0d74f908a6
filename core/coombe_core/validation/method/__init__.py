"""How often a comparison errs, finds, names and adjusts, on simulated seasons.

command  coombe method
seasons  people, days and weather
trials   questions and their answers
tables   the tables
"""

__all__ = ["command", "seasons", "tables", "trials"]
