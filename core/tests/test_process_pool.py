"""Work shared out to processes: the same results in the same order, whatever a process does."""

import multiprocessing
import os
import signal
from unittest import TestCase, mock

from drives import simulated

from coombe_core.analysis import Request, time_runs
from coombe_core.cli.process_pool import in_processes


def wait_for_others(count: int):
    """Something to do that ends only once a number of processes do it at a time."""
    barrier = multiprocessing.get_context("fork").Barrier(count, timeout=60)

    def act(_: int) -> int:
        barrier.wait()
        return os.getpid()

    return act


class SharingTest(TestCase):
    def test_results_come_in_the_order_of_the_things(self):
        for count in range(6):
            self.assertEqual(in_processes(lambda n: n * n, range(count)), [n * n for n in range(count)])

    def test_more_than_one_process_works(self):
        with mock.patch("coombe_core.cli.process_pool.os.cpu_count", return_value=3):
            processes = in_processes(wait_for_others(3), range(3))
        self.assertEqual(len(set(processes)), 3)
        self.assertNotIn(os.getpid(), processes)

    def test_what_a_killed_process_leaves_is_done_here(self):
        here = os.getpid()

        def act(number: int) -> int:
            if os.getpid() != here:
                os.kill(os.getpid(), signal.SIGKILL)
            return number

        with mock.patch("coombe_core.cli.process_pool.os.cpu_count", return_value=2):
            self.assertEqual(in_processes(act, range(5)), [0, 1, 2, 3, 4])

    def test_an_error_that_is_one_everywhere_is_raised(self):
        with self.assertRaises(ZeroDivisionError):
            in_processes(lambda n: 1 // n, [1, 0, 2, 0])

    def test_runs_timed_in_processes_are_those_timed_in_one(self):
        trace = simulated("five-runs").trace
        alone, shared = time_runs(trace, Request()), time_runs(trace, Request(), each=in_processes)
        self.assertEqual([run.measures for run in shared], [run.measures for run in alone])
        self.assertEqual([run.flags for run in shared], [run.flags for run in alone])
