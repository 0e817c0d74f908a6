"""Tables, columns and constraints under the words that users read."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('cars', '0006_plain_words'),
        ('courses', '0004_plain_words'),
        ('runs', '0010_can_dbc'),
    ]

    operations = [
        migrations.RenameModel("BusRecord", "CanLog"),
        migrations.RemoveConstraint(
            model_name='run',
            name='run_pack_temp_before_c_in_range',
        ),
        migrations.RemoveConstraint(
            model_name='run',
            name='run_pack_temp_after_c_in_range',
        ),
        migrations.RenameField(
            model_name='run',
            old_name='pack_temp_after_c',
            new_name='battery_temp_after_c',
        ),
        migrations.RenameField(
            model_name='run',
            old_name='pack_temp_before_c',
            new_name='battery_temp_before_c',
        ),
        migrations.RenameField(
            model_name='run',
            old_name='set_up',
            new_name='setup',
        ),
        migrations.RenameField(
            model_name='runtrace',
            old_name='bus',
            new_name='can_data',
        ),
        migrations.AlterField(
            model_name='canlog',
            name='log',
            field=models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='can_log', to='runs.log'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.CheckConstraint(condition=models.Q(('battery_temp_before_c__isnull', True), ('battery_temp_before_c__range', (-40, 90)), _connector='OR'), name='run_battery_temp_before_c_in_range'),
        ),
        migrations.AddConstraint(
            model_name='run',
            constraint=models.CheckConstraint(condition=models.Q(('battery_temp_after_c__isnull', True), ('battery_temp_after_c__range', (-40, 90)), _connector='OR'), name='run_battery_temp_after_c_in_range'),
        ),
    ]
