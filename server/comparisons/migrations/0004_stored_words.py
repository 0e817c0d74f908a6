"""Verdicts and factors of saved comparisons under the words that they have now."""

from django.db import migrations

VERDICTS = {"no difference shown": "no clear difference"}
FACTORS = {"pack temperature": "battery temperature"}


def rename_words(apps, _):
    for comparison in apps.get_model("comparisons", "Comparison").objects.all():
        comparison.adjust = [FACTORS.get(name, name) for name in comparison.adjust]
        for pair in (comparison.kept or {}).get("pairs", []):
            pair["verdict"] = VERDICTS.get(pair["verdict"], pair["verdict"])
        comparison.save(update_fields=["adjust", "kept"])


class Migration(migrations.Migration):
    dependencies = [("comparisons", "0003_plain_words")]
    operations = [migrations.RunPython(rename_words, migrations.RunPython.noop)]
