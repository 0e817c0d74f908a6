"""Django's test runner, ending in one line of totals."""

from __future__ import annotations

import logging
import os
from typing import Any

from django.conf import settings
from django.test.runner import DiscoverRunner

IMMEDIATE = "django_tasks.backends.immediate.ImmediateBackend"  # tasks are done when they are enqueued
QUICK_HASHER = "django.contrib.auth.hashers.MD5PasswordHasher"  # the real one is slow on purpose, for every person made


class TotalsRunner(DiscoverRunner):
    """Prints `N passed, N failed`."""

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Django's own, quicker."""
        super().setup_test_environment(**kwargs)
        settings.PASSWORD_HASHERS = [QUICK_HASHER]
        settings.WHITENOISE_AUTOREFRESH = True  # else each client of a test reads all files of the web build first
        settings.TASKS = {"default": {"BACKEND": IMMEDIATE}}
        os.environ["COOMBE_TASKS"] = "immediate"  # of the servers that tests start
        logging.getLogger("coombe.security").setLevel(logging.WARNING)

    def suite_result(self, suite: Any, result: Any, **kwargs: Any) -> int:
        """Print the totals; skipped tests count as neither."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        passed = result.testsRun - failed - len(result.skipped)
        print(f"{passed} passed, {failed} failed", flush=True)
        return failed
