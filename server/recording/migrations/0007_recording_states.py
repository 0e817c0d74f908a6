"""A recording says where it stands, and outlives its recorder."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("cars", "0004_promised_gain"),
        ("recording", "0006_drop_addresses"),
    ]

    operations = [
        migrations.AlterField(
            "recording",
            "recorder",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="recordings",
                to="recording.recorder",
            ),
        ),
        migrations.AddField("recording", "name", models.CharField(blank=True, max_length=60)),
        migrations.AddField(
            "recording",
            "set_up",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="recordings", to="cars.setup"
            ),
        ),
        migrations.AddField(
            "recording",
            "started_by",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.PROTECT,
                related_name="recordings",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AddField("recording", "stopped_at", models.DateTimeField(null=True)),
        migrations.AddField("recording", "stored_at", models.DateTimeField(null=True)),
        migrations.AddField("recording", "trouble", models.CharField(blank=True, max_length=500)),
        migrations.AlterField(
            "recording", "ended_at", models.DateTimeField(help_text="its last fix", null=True)
        ),
        migrations.AlterField(
            "gap",
            "cause",
            models.CharField(
                choices=[
                    ("not listening", "the recorder was not listening"),
                    ("no fix", "the receiver sent no fix"),
                    ("no room", "the disk was full"),
                ],
                max_length=16,
            ),
        ),
    ]
