"""The security log."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial")]

    operations = [
        migrations.CreateModel(
            name="SecurityEvent",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(choices=[("log-in", "Log In"), ("log-out", "Log Out"), ("failed log-in", "Failed"), ("held back", "Held Back"), ("password changed", "Password"), ("person changed", "Person"), ("deleted", "Deleted"), ("exported", "Exported")], max_length=20)),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("username", models.CharField(blank=True, max_length=150)),
                ("address", models.CharField(blank=True, max_length=45)),
                ("device", models.CharField(blank=True, help_text="a browser that this person logged in with before", max_length=40)),
                ("detail", models.CharField(blank=True, max_length=300)),
                ("person", models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, to=settings.AUTH_USER_MODEL)),
            ],
            options={
                "ordering": ["-at", "-id"],
                "indexes": [
                    models.Index(fields=["kind", "username", "at"], name="security_by_name"),
                    models.Index(fields=["kind", "address", "at"], name="security_by_address"),
                ],
            },
        ),
    ]
