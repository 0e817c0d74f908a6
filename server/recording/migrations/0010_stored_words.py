"""What undoing a key brings back, by the names that a run's columns have now."""

from django.db import migrations


def rename_fields(apps, _):
    for press in apps.get_model("recording", "Press").objects.exclude(before={}):
        named = {name.replace("pack_temp_", "battery_temp_"): value for name, value in press.before.items()}
        if named != press.before:
            press.before = named
            press.save(update_fields=["before"])


class Migration(migrations.Migration):
    dependencies = [("recording", "0009_plain_words")]
    operations = [migrations.RunPython(rename_fields, migrations.RunPython.noop)]
