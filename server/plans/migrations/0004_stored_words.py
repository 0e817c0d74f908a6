"""Kinds and orders of plans under the words that they have now."""

from django.db import migrations


def rename_choices(apps, _):
    plans = apps.get_model("plans", "Plan").objects
    plans.filter(kind="arms").update(kind="groups")
    plans.filter(order="randomised").update(order="randomized")


class Migration(migrations.Migration):
    dependencies = [("plans", "0003_plain_words")]
    operations = [migrations.RunPython(rename_choices, migrations.RunPython.noop)]
