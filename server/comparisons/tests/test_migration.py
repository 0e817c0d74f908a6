"""Comparisons saved before groups stood by themselves keep their runs and sides."""

from __future__ import annotations

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase

from accounts.models import User
from comparisons.models import Comparison
from runs.tests.factories import RunFactory, UserFactory

BEFORE, AFTER = [("comparisons", "0001_initial")], [("comparisons", "0002_arms_and_settings")]


class ArmsOfMembersTest(TransactionTestCase):
    def migrate(self, to):
        """Carry the tables to a migration; gives the models as they were then."""
        executor = MigrationExecutor(connection)
        executor.migrate(to)
        return executor.loader.project_state(to).apps

    def test_members_find_themselves_in_arms_of_their_side(self):
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
        arms = Comparison.objects.get(title="Kept?").arms.all()
        found = {arm.name: sorted(arm.runs.values_list("pk", flat=True)) for arm in arms}
        self.assertEqual(found, {"before": sorted([runs[0], runs[2]]), "after": [runs[1]]})
        self.assertEqual([arm.position for arm in arms], [0, 1])
