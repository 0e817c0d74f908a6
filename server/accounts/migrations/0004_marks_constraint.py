"""The database keeps role and marks together."""

from django.db import migrations, models
from django.db.models import Q


class Migration(migrations.Migration):
    dependencies = [("accounts", "0003_marks_follow_role")]

    operations = [
        migrations.AddConstraint(
            model_name="user",
            constraint=models.CheckConstraint(
                condition=Q(is_staff=True, is_superuser=True, role="administrator")
                | (~Q(role="administrator") & Q(is_staff=False, is_superuser=False)),
                name="user_marks_follow_role",
            ),
        ),
    ]
