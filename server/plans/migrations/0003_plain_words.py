"""Tables, columns and constraints under the words that users read."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('cars', '0006_plain_words'),
        ('courses', '0004_plain_words'),
        ('plans', '0002_revisions'),
        ('days', '0003_arm_restricted'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameModel("Arm", "Group"),
        migrations.RemoveConstraint(
            model_name='group',
            name='arm_name_once_a_plan',
        ),
        migrations.RemoveConstraint(
            model_name='group',
            name='arm_place_once_a_plan',
        ),
        migrations.RemoveConstraint(
            model_name='plan',
            name='plan_window_open',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='days_per_arm',
            new_name='days_per_group',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='smallest_difference',
            new_name='difference_that_matters',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='high_pack_temp_c',
            new_name='high_battery_temp_c',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='low_pack_temp_c',
            new_name='low_battery_temp_c',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='minutes_a_change',
            new_name='minutes_per_change',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='minutes_a_run',
            new_name='minutes_per_run',
        ),
        migrations.RenameField(
            model_name='plan',
            old_name='runs_per_arm',
            new_name='runs_per_group',
        ),
        migrations.RenameField(
            model_name='group',
            old_name='set_up',
            new_name='setup',
        ),
        migrations.AlterField(
            model_name='group',
            name='setup',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='groups', to='cars.setup'),
        ),
        migrations.AlterField(
            model_name='group',
            name='plan',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='groups', to='plans.plan'),
        ),
        migrations.AlterField(
            model_name='plan',
            name='can_alternate',
            field=models.BooleanField(default=True, help_text='whether the groups can be swapped within a day'),
        ),
        migrations.AlterField(
            model_name='plan',
            name='kind',
            field=models.CharField(choices=[('groups', 'Groups'), ('charge sweep', 'Sweep'), ('braking series', 'Stops'), ('roll-ons', 'Roll On'), ('side by side', 'Side By Side')], default='groups', max_length=16),
        ),
        migrations.AlterField(
            model_name='plan',
            name='order',
            field=models.CharField(choices=[('alternating', 'Alternating'), ('ABBA', 'Abba'), ('blocked', 'Blocked'), ('randomized', 'Randomized')], default='ABBA', max_length=12),
        ),
        migrations.AddConstraint(
            model_name='group',
            constraint=models.UniqueConstraint(fields=('plan', 'name'), name='group_name_once_a_plan'),
        ),
        migrations.AddConstraint(
            model_name='group',
            constraint=models.UniqueConstraint(fields=('plan', 'position'), name='group_place_once_a_plan'),
        ),
        migrations.AddConstraint(
            model_name='plan',
            constraint=models.CheckConstraint(condition=models.Q(('low_charge_percent__lt', models.F('high_charge_percent')), ('low_battery_temp_c__lt', models.F('high_battery_temp_c'))), name='plan_window_open'),
        ),
    ]
