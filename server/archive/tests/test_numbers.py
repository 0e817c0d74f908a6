"""The numbers of rows: kept where they are free, another where they are not, the same wherever they are named."""

from __future__ import annotations

from django.test import TestCase

from accounts.models import User
from archive.cells import ArchiveError
from archive.numbers import Numbers, People, renumber_change, renumbered
from cars.models import Car
from comparisons.models import Comparison
from history.models import Action, Change
from reports.models import Report, Version
from runs.models import Run
from runs.tests.factories import CarFactory, UserFactory
from studies.models import Study


class NumbersTest(TestCase):
    def setUp(self):
        self.here = [CarFactory(pk=number).pk for number in (3, 7)]
        self.numbers = Numbers()

    def test_a_free_number_is_kept_and_a_taken_one_is_another_that_nobody_has(self):
        self.assertEqual(self.numbers.place(Car, 5), 5)
        placed = self.numbers.place(Car, 7)
        self.assertNotIn(placed, (3, 5, 7))
        self.assertEqual(self.numbers.place(Car, 7), placed)
        others = [self.numbers.place(Car, number) for number in range(1, 20) if number not in (5, 7)]
        self.assertEqual(len({placed, 5, *self.here, *others}), len(others) + 4)

    def test_a_number_that_a_row_here_had_is_taken(self):
        action = Action.objects.create(title="Deleted a car", person=UserFactory())
        Change.objects.create(action=action, kind="deleted", model="cars.car", row=40, label="Gone")
        self.assertNotEqual(self.numbers.place(Car, 40), 40)

    def test_what_is_the_same_here_is_called_as_here(self):
        self.numbers.same(Car, 12, 3)
        self.assertEqual((self.numbers.known(Car, 12), self.numbers.place(Car, 12)), (3, 3))
        self.assertIsNone(self.numbers.known(Car, 13))

    def test_numbers_inside_json_follow(self):
        self.numbers.same(Run, 1, 101)
        self.numbers.same(Comparison, 2, 102)
        self.numbers.same(Study, 3, 103)
        parts = [
            {"kind": "comparison", "id": 2, "text": ""},
            {"kind": "text", "id": None, "text": "1"},
            {"kind": "study", "id": 3},
            {"kind": "slip", "id": 1},
            {"kind": "all cars"},
        ]
        found = renumbered(Report, "parts", parts, self.numbers)
        self.assertEqual([part.get("id") for part in found], [102, None, 103, 101, None])
        kept = {"runs": {"1": 4.1}, "core_version": "1"}
        for model, name in ((Comparison, "kept"), (Study, "kept"), (Version, "content")):
            self.assertEqual(renumbered(model, name, kept, self.numbers), {**kept, "runs": {"101": 4.1}})
        self.assertEqual(renumbered(Run, "estimated", ["1"], self.numbers), ["1"])
        self.assertIsNone(renumbered(Comparison, "kept", None, self.numbers))


class ChangeTest(TestCase):
    def setUp(self):
        self.numbers, self.people = Numbers(), People()
        self.numbers.same(Run, 1, 101)
        self.person = UserFactory(username="known")

    def changed(self, **given) -> dict:
        usual = {"model": "runs.run", "row": 1, "owner_model": "", "owner_row": None, "values": {}}
        return renumber_change(usual | given, self.numbers, People())

    def test_the_row_what_owns_it_and_what_it_refers_to_follow(self):
        found = self.changed(model="comparisons.member", owner_model="comparisons.comparison", owner_row=9)
        self.assertEqual(found["owner_row"], self.numbers.known(Comparison, 9))
        found = self.changed(values={"setup": [None, 5], "notes": ["5", "6"], "charge_before_percent": [5, 6]})
        self.assertEqual(found["row"], 101)
        self.assertEqual(found["values"]["notes"], ["5", "6"])
        self.assertEqual(found["values"]["charge_before_percent"], [5, 6])

    def test_people_are_found_by_name_or_come_as_people_who_cant_log_in(self):
        found = self.changed(model="days.checklistitem", values={"signed_by": ["known", "stranger"]})
        known, stranger = found["values"]["signed_by"]
        self.assertEqual(known, self.person.pk)
        self.assertFalse(User.objects.get(pk=stranger).is_active)

    def test_a_change_of_what_no_archive_has_is_refused(self):
        with self.assertRaisesRegex(ArchiveError, "'recording.device', which is none of its tables"):
            self.changed(model="recording.device")
