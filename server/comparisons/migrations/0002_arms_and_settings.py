"""Arms of their own, two to six a comparison, and how a comparison is asked."""

import django.db.models.deletion
from django.db import migrations, models


def arms_of_members(apps, schema_editor):
    """Every comparison so far has a before and an after arm."""
    arms = apps.get_model("comparisons", "Arm")
    for member in apps.get_model("comparisons", "Member").objects.all():
        position = 0 if member.side == "before" else 1
        found, _ = arms.objects.get_or_create(
            comparison_id=member.comparison_id, position=position, defaults={"name": member.side}
        )
        member.arm = found
        member.save()


class Migration(migrations.Migration):
    dependencies = [("runs", "0001_initial"), ("comparisons", "0001_initial")]

    operations = [
        migrations.AddField("comparison", "adjust", models.JSONField(default=list, help_text="the factors that are adjusted for, by name")),
        migrations.AddField("comparison", "matters", models.FloatField(blank=True, null=True, help_text="the smallest difference that matters, SI")),
        migrations.AddField("comparison", "match", models.BooleanField(default=False, help_text="only runs that have one of the other arm at about its charge")),
        migrations.AddField("comparison", "kept", models.JSONField(null=True, help_text="what was found when it was saved, and by which core")),
        migrations.RemoveConstraint("member", "member_once_a_comparison"),
        migrations.RemoveConstraint("member", "member_arm_known"),
        migrations.RemoveField("comparison", "runs"),
        migrations.CreateModel(
            name="Arm",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("position", models.PositiveSmallIntegerField()),
                ("name", models.CharField(max_length=40)),
                ("typed", models.JSONField(default=list)),
                ("source", models.CharField(blank=True, max_length=200)),
                ("clock", models.CharField(blank=True, choices=[("first_movement", "First Movement"), ("rollout", "Rollout"), ("speed", "Speed")], help_text="of typed values", max_length=16)),
                ("comparison", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="arms", to="comparisons.comparison")),
            ],
            options={"ordering": ["position"]},
        ),
        migrations.RenameField("member", "arm", "side"),
        migrations.AddField("member", "arm", models.ForeignKey(null=True, on_delete=django.db.models.deletion.CASCADE, related_name="members", to="comparisons.arm")),
        migrations.RunPython(arms_of_members, migrations.RunPython.noop),
        migrations.RemoveField("member", "side"),
        migrations.RemoveField("member", "comparison"),
        migrations.AlterField("member", "arm", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="members", to="comparisons.arm")),
        migrations.AddField("arm", "runs", models.ManyToManyField(related_name="arms", through="comparisons.Member", to="runs.run")),
        migrations.AddConstraint("arm", models.UniqueConstraint(fields=["comparison", "position"], name="compared_arm_place_once")),
        migrations.AddConstraint("arm", models.UniqueConstraint(fields=["comparison", "name"], name="compared_arm_name_once")),
        migrations.AddConstraint("member", models.UniqueConstraint(fields=["arm", "run"], name="member_once_an_arm")),
    ]
