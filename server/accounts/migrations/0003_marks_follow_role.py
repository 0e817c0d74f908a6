"""Django's staff and superuser marks as the role has them."""

from django.db import migrations


def follow_role(apps, schema_editor):
    users = apps.get_model("accounts", "User").objects
    users.filter(role="administrator").update(is_staff=True, is_superuser=True)
    users.exclude(role="administrator").update(is_staff=False, is_superuser=False)


class Migration(migrations.Migration):
    dependencies = [("accounts", "0002_security")]

    operations = [migrations.RunPython(follow_role, migrations.RunPython.noop)]
