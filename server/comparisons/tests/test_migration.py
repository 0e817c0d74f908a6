"""Comparisons saved before groups stood by themselves keep their runs and sides."""

from __future__ import annotations

from django.core.management import call_command
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase

from accounts.models import User
from comparisons.models import Comparison
from runs.tests.factories import RunFactory, UserFactory

BEFORE, AFTER = [("comparisons", "0001_initial")], [("comparisons", "0005_typed_day")]


class GroupsOfMembersTest(TransactionTestCase):
    def setUp(self):
        call_command("migrate", fake=True, verbosity=0)  # the tables of tests come from the models

    def migrate(self, to):
        """Carry the tables to a migration; gives the models as they were then."""
        executor = MigrationExecutor(connection)
        executor.migrate(to)
        return executor.loader.project_state(to).apps

    def test_members_find_themselves_in_groups_of_their_side(self):
        self.addCleanup(self.migrate, AFTER)
        runs = [RunFactory().pk for _ in range(3)]
        person: User = UserFactory()
        old = self.migrate(BEFORE)
        made = old.get_model("comparisons", "Comparison").objects.create(
            title="Kept?", measure="0-60 mph", clock="rollout", created_by_id=person.pk
        )
        members = old.get_model("comparisons", "Member").objects
        for run, side in zip(runs, ("before", "after", "before"), strict=True):
            members.create(comparison=made, run_id=run, arm=side)
        self.migrate(AFTER)
        groups = Comparison.objects.get(title="Kept?").groups.all()
        found = {group.name: sorted(group.runs.values_list("pk", flat=True)) for group in groups}
        self.assertEqual(found, {"before": sorted([runs[0], runs[2]]), "after": [runs[1]]})
        self.assertEqual([group.position for group in groups], [0, 1])
