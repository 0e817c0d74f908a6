"""Times, distances and speeds of a run on its clocks, each with its uncertainty.

clocks        where a time starts: first movement, rollout, speed
measures      named measures, and timing one on a curve
acceleration  standing starts and roll-ons
braking       stops
splits        the split table
slope         slope from the log's altitude
corrections   to level, standard air and calm
results       what timing a run gives
"""

__all__ = ["acceleration", "braking", "clocks", "corrections", "measures", "results", "slope", "splits"]
