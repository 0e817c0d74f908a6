"""Small-sample statistics on arrays: nothing here knows what was measured.

samples      count, mean, standard deviation and best of a group
layout       how the runs are spread over days and directions, and what may be compared with what
scatter      how a car's values vary from run to run and from day to day
contrast     the difference of two groups as a weighted sum, and the parts of its variance
interval     Student's interval and test of a difference (the quantile of several parts by Cochran and Cox)
permutation  relabeling within days and directions
power        the chance of finding a difference, and the difference that is found with 80 % power
multiple     Holm's adjustment for several comparisons
checks       a trend within the day, and values far from their group
"""

__all__ = ["checks", "contrast", "interval", "layout", "multiple", "permutation", "power", "samples", "scatter"]
