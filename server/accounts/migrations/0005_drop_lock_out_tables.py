"""The tables of the lock-out that throttling took the place of."""

from django.db import migrations

GONE = ("axes_accesslog", "axes_accessattemptexpiration", "axes_accessattempt", "axes_accessfailurelog")


class Migration(migrations.Migration):
    dependencies = [("accounts", "0004_marks_constraint")]

    operations = [
        migrations.RunSQL([f"DROP TABLE IF EXISTS {table}" for table in GONE], migrations.RunSQL.noop),
    ]
