"""Django's test runner, ending in the slow tests, those that failed, and one line of totals."""

from __future__ import annotations

import logging
import os
import time
import unittest
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner
from django.test.utils import override_settings

IMMEDIATE = "django_tasks.backends.immediate.ImmediateBackend"  # tasks are done when they are enqueued
QUICK_HASHER = "django.contrib.auth.hashers.MD5PasswordHasher"  # the real one is slow on purpose, for every person made
SLOW_S = 5.0  # a test that takes longer is named, for whoever wants the run shorter


class TimedResult(unittest.TextTestResult):
    """Notes how long each test takes."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """See `unittest.TextTestResult`."""
        super().__init__(*args, **kwargs)
        self.slow: list[tuple[float, str]] = []
        self._began_s = 0.0

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's own name
        """Begin one test's time."""
        self._began_s = time.monotonic()
        super().startTest(test)

    def stopTest(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's own name
        """End one test's time."""
        super().stopTest(test)
        took_s = time.monotonic() - self._began_s
        if took_s >= SLOW_S:
            self.slow.append((took_s, test.id()))


class TotalsRunner(DiscoverRunner):
    """Prints `N passed, N failed`."""

    def get_resultclass(self) -> Any:
        """Django's own choice, else one that notes times."""
        return super().get_resultclass() or TimedResult

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Django's own, quicker."""
        super().setup_test_environment(**kwargs)
        settings.PASSWORD_HASHERS = [QUICK_HASHER]
        settings.WHITENOISE_AUTOREFRESH = True  # else each client of a test reads all files of the web build first
        override_settings(TASKS={"default": {"BACKEND": IMMEDIATE}}).enable()  # also for whoever has them by now
        os.environ["COOMBE_TASKS"] = "immediate"  # of the servers that tests start
        logging.getLogger("coombe.security").setLevel(logging.WARNING)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        """Print slow tests, failed ones and the totals; skipped tests count as neither."""
        for took_s, test in sorted(getattr(result, "slow", []), reverse=True):
            print(f"{took_s:6.1f} s  {test}")
        found = [*(test for test, _ in [*result.failures, *result.errors]), *result.unexpectedSuccesses]
        for name in sorted({str(test) for test in found}):
            print(f"FAILED {name}")
        failed = {getattr(test, "test_case", test) for test in found}  # a test may fail in many of its parts
        passed = result.testsRun - len(failed) - len(result.skipped)
        print(f"{passed} passed, {len(failed)} failed", flush=True)
        return len(failed)
