"""What was changed of runs goes into the history that everything has."""

from itertools import groupby

from django.conf import settings
from django.db import migrations

NUMBERS = ("_percent", "_c", "_kg", "_hpa", "_mps", "_deg", "_km")


def value_of(field, text):
    """What a field had, as the history keeps it."""
    if text == "":
        return None
    if field.endswith(NUMBERS) or field == "occupants":
        try:
            return float(text)
        except ValueError:
            return text
    return {"True": True, "False": False}.get(text, text)


def carry_over(apps, schema_editor):
    """An action for all that one person changed of a run at once."""
    Action, Change = apps.get_model("history", "Action"), apps.get_model("history", "Change")
    edits = apps.get_model("runs", "Edit").objects.order_by("run_id", "edited_by_id", "edited_at", "id")
    at_once = groupby(edits, key=lambda edit: (edit.run_id, edit.edited_by_id, edit.revision, edit.edited_at.replace(microsecond=0)))
    for (_, person, revision, _), group in at_once:
        rows = list(group)
        run = rows[0].run
        name = f"{run.kind} {run.start_utc:%Y-%m-%d %H:%M:%S}"
        action = Action.objects.create(title=f"Changed run {name}", person_id=person, done_at=rows[0].edited_at)
        Change.objects.create(
            action=action,
            kind="changed",
            model="runs.run",
            row=run.pk,
            label=name,
            revision=revision or None,
            values={row.field: [value_of(row.field, row.old_value), value_of(row.field, row.new_value)] for row in rows},
        )


class Migration(migrations.Migration):

    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("history", "0001_actions"),
        ("runs", "0013_import"),
    ]

    operations = [
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.DeleteModel(name="Edit"),
    ]
