"""Which runs count for a heads-up run is decided by when they began: numbers of rows do not grow in order in a cluster."""

from django.db import migrations, models
from django.db.models import Max


def by_time(apps, schema_editor):
    HeadsUp, Run = apps.get_model("recording", "HeadsUp"), apps.get_model("runs", "Run")
    for pair in HeadsUp.objects.all():
        for side in ("left", "right"):
            runs = Run.objects.filter(log__recording__recorder=getattr(pair, f"{side}_id"), pk__lte=pair.runs_before)
            setattr(pair, f"{side}_before", runs.aggregate(latest=Max("start_utc"))["latest"])
        pair.save(update_fields=["left_before", "right_before"])


class Migration(migrations.Migration):
    dependencies = [("recording", "0011_heads_up_run_named"), ("runs", "0021_run_indexes")]

    operations = [
        migrations.AddField(
            "headsup",
            "left_before",
            models.DateTimeField(help_text="when the latest run in its lane began, when it was armed", null=True),
        ),
        migrations.AddField(
            "headsup",
            "right_before",
            models.DateTimeField(help_text="the same; none before the first run", null=True),
        ),
        migrations.RunPython(by_time, migrations.RunPython.noop),
        migrations.RemoveField("headsup", "runs_before"),
    ]
