"""How far a log was moved from the time that its bytes have; known for those that got their day later."""

from datetime import datetime

from django.db import migrations, models


def from_history(apps, schema_editor):
    """Logs that got their day later, by the history of their runs."""
    Run, Log, Change = apps.get_model("runs", "Run"), apps.get_model("runs", "Log"), apps.get_model("history", "Change")
    shifts = {}
    for change in Change.objects.filter(model="runs.run").iterator():
        if "start_utc" in change.values:
            old, new = (datetime.fromisoformat(str(value)) for value in change.values["start_utc"])
            shifts[change.row] = shifts.get(change.row, 0.0) + (new - old).total_seconds()
    for run, shift_s in shifts.items():
        Log.objects.filter(pk__in=Run.objects.filter(pk=run).values("log")).update(clock_shift_s=shift_s)


class Migration(migrations.Migration):

    dependencies = [("runs", "0015_can_log_named")]

    operations = [
        migrations.AddField("log", "clock_shift_s", models.FloatField(default=0.0, help_text="from the clock in its bytes to the time that is known")),
        migrations.RunPython(from_history, migrations.RunPython.noop),
    ]
