"""Commands without a server: analyse, compare, study, simulate, and simulated devices.

command       arguments and exit codes
compared      the two groups of a comparison
study         studies of a run table
logged        runs of logs with what a run table says of them
run_table     logs with what was noted of their runs
output        analyses as JSON and as tables
comparison_output  comparisons as JSON
process_pool  runs timed in several processes
devices       the simulated devices as a process
"""

__all__ = [
    "command",
    "compared",
    "comparison_output",
    "devices",
    "logged",
    "output",
    "process_pool",
    "run_table",
    "study",
]
