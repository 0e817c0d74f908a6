"""Recorders point at devices; their addresses step aside."""

import django.db.models.deletion
from django.db import migrations, models


def device(**more):
    return models.ForeignKey(
        null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="recording.device", **more
    )


class Migration(migrations.Migration):
    dependencies = [("recording", "0003_device")]

    operations = [
        migrations.RenameField("recorder", "receiver", "receiver_address"),
        migrations.AddField("recorder", "receiver", device(blank=True)),
        migrations.AddField("recorder", "can", device(blank=True)),
        migrations.AddField("recorder", "weather_station", device(blank=True)),
        migrations.AddField("recorder", "simulation", device(blank=True)),
        migrations.AddField("recorder", "revision", models.PositiveIntegerField(default=1)),
        migrations.AddField(
            "recorder",
            "trouble",
            models.CharField(blank=True, editable=False, help_text="why its process ended last", max_length=300),
        ),
    ]
