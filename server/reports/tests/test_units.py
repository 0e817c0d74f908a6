"""Numbers of a report in the reader's units. Factors: NIST SP 811 (2008), Appendix B."""

from __future__ import annotations

from django.test import SimpleTestCase

from reports.units import NONE, unit_of


class UnitsTest(SimpleTestCase):
    def test_a_value_stands_in_either_family(self):
        for kind, si, us, metric in (
            ("speed", 26.8224, "60.0", "96.6"),
            ("distance", 36.576, "120.0", "36.6"),
            ("temperature", 37.0, "99", "37"),
            ("pressure", 289.58, "42.0", "290"),
            ("mass", 1000.0, "2205", "1000"),
            ("odometer", 16.09344, "10", "16"),
        ):
            with self.subTest(kind):
                self.assertEqual((unit_of(kind, "us").text(si), unit_of(kind, "metric").text(si)), (us, metric))

    def test_an_interval_has_two_digits_and_is_never_none(self):
        seconds = unit_of("time", "us")
        self.assertEqual(seconds.text(3.4127, 0.0124), "3.413 ± 0.012")
        self.assertEqual(seconds.difference(-0.1234, 0.21), "−0.12 s ± 0.21 s")
        self.assertEqual(seconds.difference(0.0123, 0.004), "+0.012 s ± 0.004 s")
        self.assertEqual(unit_of("distance", "us").text(36.576, 0.3048), "120.0 ± 1.0")
        self.assertEqual(seconds.text(None), NONE)
