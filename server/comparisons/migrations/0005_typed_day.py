from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("comparisons", "0004_stored_words")]

    operations = [
        migrations.AddField(
            model_name="group",
            name="typed_day",
            field=models.DateField(
                blank=True, help_text="of all typed values, which then stand in its order", null=True
            ),
        ),
    ]
