"""Recordings that had ended were stored; each takes along what its recorder knows."""

from django.db import migrations
from django.db.models import F
from django.utils import timezone


def fill(apps, schema_editor):
    recordings = apps.get_model("recording", "Recording").objects
    recordings.filter(ended_at__isnull=False).update(stopped_at=F("ended_at"), stored_at=F("ended_at"))
    left = recordings.filter(ended_at=None, recorder__wanted=False)  # their spools wait for nobody
    left.update(stopped_at=timezone.now())
    for recording in recordings.select_related("recorder"):
        recorder = recording.recorder
        recordings.filter(pk=recording.pk).update(
            name=recorder.name, set_up=recorder.set_up_id, started_by=recorder.started_by_id
        )


class Migration(migrations.Migration):
    dependencies = [("recording", "0007_recording_states")]

    operations = [migrations.RunPython(fill, migrations.RunPython.noop)]
