"""Tables, columns and constraints under the words that users read."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('days', '0003_arm_restricted'),
        ('plans', '0003_plain_words'),
        ('runs', '0011_plain_words'),
    ]

    operations = [
        migrations.RenameModel("PlannedRun", "ScheduledRun"),
        migrations.RenameModel("CheckItem", "ChecklistItem"),
        migrations.RenameField(
            model_name='testday',
            old_name='pack_temp_c',
            new_name='battery_temp_c',
        ),
        migrations.RenameField(
            model_name='scheduledrun',
            old_name='arm',
            new_name='group',
        ),
        migrations.AlterField(
            model_name='scheduledrun',
            name='group',
            field=models.ForeignKey(on_delete=django.db.models.deletion.RESTRICT, related_name='scheduled_runs', to='plans.group'),
        ),
        migrations.AlterField(
            model_name='checklistitem',
            name='day',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='checklist', to='days.testday'),
        ),
        migrations.AlterField(
            model_name='scheduledrun',
            name='day',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='scheduled_runs', to='days.testday'),
        ),
        migrations.AlterField(
            model_name='scheduledrun',
            name='run',
            field=models.OneToOneField(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='scheduled', to='runs.run'),
        ),
        migrations.AlterField(
            model_name='testday',
            name='known_at',
            field=models.DateTimeField(help_text='when charge and battery temperature were as stated'),
        ),
    ]
