"""The invented season: big enough, varied enough, and its three stories end as they should."""

import io
import tempfile
from collections import Counter
from pathlib import Path

from django.test import TestCase

from archive.importing import take_in
from archive.tests import elsewhere
from cars.models import Car
from comparisons.models import Comparison
from comparisons.serializers import ComparisonSerializer
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from days.models import TestDay
from days.services import worked_out
from demo.loading import load
from demo.planning import BATTERY
from learning.services import battery_heat
from reports.models import Version
from runs import store
from runs.models import Run
from studies.models import Study, StudyKind
from studies.serializers import StudySerializer


class SeasonTest(TestCase):
    @classmethod
    def setUpTestData(cls):
        load()

    def test_it_holds_five_cars_and_sixty_runs_over_several_days_some_void(self):
        runs = Run.objects.all()
        self.assertGreaterEqual(runs.count(), 60)
        self.assertEqual(runs.values("setup__car").distinct().count(), 5)
        self.assertGreaterEqual(runs.values("setup").distinct().count(), 4)
        self.assertGreaterEqual(len({run.start_utc.date() for run in runs}), 5)
        self.assertGreaterEqual(runs.filter(validity="void").count(), 3)

    def test_every_kind_of_study_has_one_that_says_what_was_put_in(self):
        found = {study.kind: StudySerializer(study).data["result"] for study in Study.objects.all()}
        self.assertEqual({kind for kind, result in found.items() if not result["trouble"]}, set(StudyKind.values))
        first = {kind: result["sentences"] for kind, result in found.items()}
        self.assertRegex(first["charge sweep"][0], r"^Marlet: .*with a step of \+0\.\d\d .* at 6\d %")
        self.assertIn("no step is shown", first["charge sweep"][1])
        self.assertRegex(first["braking series"][0], "^Marlet: Fades")
        self.assertRegex(first["braking series"][1], "^Corin: No clear fade")
        self.assertRegex(first["tires"][0], "^Summer has the best mean")
        self.assertRegex(first["history"][0], r"^A jump of −0\.\d\d .* about 2026-0[67]-")
        self.assertRegex(first["receivers"][0], r"^Roof shows \+0\.0\d\d")
        self.assertIn("Keen has the best mean", first["modes"][0])

    def test_the_three_stories_end_in_the_right_verdict(self):
        verdicts = {
            comparison.title: ComparisonSerializer(comparison).data["result"]["pairs"][0]["verdict"]
            for comparison in Comparison.objects.all()
        }
        self.assertEqual(
            verdicts,
            {
                "Did update 7.2 change 0-60?": "faster",
                "Did 7.2.1 change anything?": "no clear difference",
                "Do the smooth covers help?": "not comparable",
            },
        )

    def test_a_day_is_finished_one_under_way_and_one_cannot_be_met(self):
        days = {state: list(TestDay.objects.filter(state=state)) for state in ("finished", "under way", "planned")}
        self.assertEqual(
            {state: len(found) for state, found in days.items()}, {"finished": 2, "under way": 1, "planned": 1}
        )
        self.assertTrue(all(step.run for day in days["finished"] for step in day.scheduled_runs.all()))
        self.assertTrue(worked_out(days["under way"][0]).met)
        late = worked_out(days["planned"][0])
        self.assertFalse(late.met)
        self.assertTrue(late.shortfalls and late.remedies)

    def test_the_battery_is_learned_from_the_evenings_within_its_intervals(self):
        heat = battery_heat(Car.objects.get(name="Vireo"))
        tau = heat.time_constant_min
        self.assertEqual(heat.loss_per_min.occasions, 5)
        self.assertTrue(tau.low95 <= BATTERY.time_constant_min <= tau.high95)
        self.assertAlmostEqual(
            heat.heating_k_per_min.value, BATTERY.heating_k_per_min, delta=heat.heating_k_per_min.u95
        )

    def test_nothing_waits_to_be_timed_and_the_published_report_comes_out_again(self):
        self.assertFalse(Run.objects.filter(stale=True).exists())
        version = Version.objects.get()
        opened = read_package(io.BytesIO(store.read(version.package_sha256)))
        self.assertEqual([each for each in verify(opened) if each.outcome != "agrees"], [])

    def test_an_empty_installation_that_takes_its_archive_in_says_the_same(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        archive, before = elsewhere.written(folder), elsewhere.answers()
        with elsewhere.another_installation():
            found = take_in(archive)
            self.assertEqual((found.stored, found.conflicts, found.there), (True, [], Counter()))
            after = elsewhere.answers()
            self.assertEqual(before.keys(), after.keys())
            for name, said in before.items():
                self.assertEqual(said, after[name], name)
            again = elsewhere.written(folder, "again.zip")
            self.assertEqual(elsewhere.tables(again), elsewhere.tables(archive))
            self.assertEqual(take_in(again).added, Counter())
            self.assertEqual(elsewhere.tables(elsewhere.written(folder, "third.zip")), elsewhere.tables(archive))

    def test_loading_again_adds_nothing(self):
        before = Run.objects.count()
        load()
        self.assertEqual(Run.objects.count(), before)
