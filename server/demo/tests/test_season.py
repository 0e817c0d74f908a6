"""The invented season: big enough, varied enough, and its three stories end as they should."""

from django.test import TestCase

from comparisons.models import Comparison
from comparisons.serializers import ComparisonSerializer
from demo.loading import load
from runs.models import Run


class SeasonTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        load()

    def test_it_holds_two_cars_and_sixty_runs_over_several_days_some_void(self):
        runs = Run.objects.all()
        self.assertGreaterEqual(runs.count(), 60)
        self.assertEqual(runs.values("set_up__car").distinct().count(), 2)
        self.assertGreaterEqual(runs.values("set_up").distinct().count(), 4)
        self.assertGreaterEqual(len({run.start_utc.date() for run in runs}), 5)
        self.assertGreaterEqual(runs.filter(validity="void").count(), 3)

    def test_the_three_stories_end_in_the_right_verdict(self):
        verdicts = {
            comparison.title: ComparisonSerializer(comparison).data["result"]["verdict"]
            for comparison in Comparison.objects.all()
        }
        self.assertEqual(
            verdicts,
            {
                "Did update 7.2 change 0-60?": "faster",
                "Did 7.2.1 change anything?": "no difference shown",
                "Do the smooth covers help?": "not comparable",
            },
        )

    def test_loading_again_adds_nothing(self):
        before = Run.objects.count()
        load()
        self.assertEqual(Run.objects.count(), before)
