"""Commands without a server: analyse, compare, simulate, and simulated devices.

command       arguments and exit codes
compared      the two groups of a comparison
run_table     logs with what was noted of their runs
output        analyses and comparisons as JSON and as tables
process_pool  runs timed in several processes
devices       the simulated devices as a process
"""

__all__ = ["command", "compared", "devices", "output", "process_pool", "run_table"]
