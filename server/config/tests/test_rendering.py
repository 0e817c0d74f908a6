"""How answers are written: as before, by another library."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime
from decimal import Decimal
from unittest import TestCase
from uuid import UUID

from rest_framework.renderers import JSONRenderer

from config.fields import LocalTimeField, shown_local
from config.rendering import FastJSONRenderer
from courses.zones import local, midnight

ANSWER = {
    "at": datetime(2026, 5, 9, 9, 2, 31, 300000, tzinfo=UTC),
    "day": date(2026, 5, 9),
    "id": UUID(int=7),
    "price": Decimal("12.50"),
    "text": "36 °C – “quoted” </script>",
    "numbers": [0.1, 1e-7, 12, True, None],
    "by_place": {1: "a", "b": ()},
}


class RenderingTest(TestCase):
    def test_it_says_what_the_framework_s_own_renderer_says(self):
        ours, theirs = (json.loads(made().render(ANSWER)) for made in (FastJSONRenderer, JSONRenderer))
        self.assertEqual(ours, theirs)
        self.assertEqual(ours["at"], "2026-05-09T09:02:31.300000Z")

    def test_nothing_is_an_empty_body(self):
        self.assertEqual(FastJSONRenderer().render(None), b"")

    def test_what_is_no_number_is_null_and_no_error(self):
        self.assertEqual(FastJSONRenderer().render({"value": float("nan")}), b'{"value":null}')


class ZonesTest(TestCase):
    def test_a_day_begins_at_the_course_s_midnight_also_where_clocks_change(self):
        # Europe/London set its clocks forward on 2026-03-29 at 01:00 UTC (IANA time zone database).
        before, after = (midnight(date(2026, 3, day), "Europe/London") for day in (29, 30))
        self.assertEqual((after - before).total_seconds() % 86400, 0)  # wall clocks agree
        self.assertEqual((after.astimezone(UTC) - before.astimezone(UTC)).total_seconds(), 23 * 3600)

    def test_times_name_their_zone(self):
        at = datetime(2026, 7, 1, 12, tzinfo=UTC)
        names = {"Europe/London": "13:00:00 BST", "America/Denver": "06:00:00 MDT", None: "12:00:00 UTC"}
        for zone, shown in names.items():
            self.assertEqual(shown_local(local(at, zone)), f"2026-07-01 {shown}")
            self.assertEqual(LocalTimeField().to_representation(local(at, zone)), f"2026-07-01 {shown}")
