"""The examples in the docstrings of the core do what they show."""

import doctest
import importlib
import pkgutil
from unittest import TestCase

import coombe_core

FLOATS = doctest.NORMALIZE_WHITESPACE


class ExamplesTest(TestCase):
    def test_examples_in_docstrings_hold(self):
        attempted = 0
        for found in pkgutil.walk_packages(coombe_core.__path__, "coombe_core."):
            result = doctest.testmod(importlib.import_module(found.name), optionflags=FLOATS)
            self.assertEqual(result.failed, 0, found.name)
            attempted += result.attempted
        self.assertGreater(attempted, 10)
