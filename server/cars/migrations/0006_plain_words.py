"""Tables, columns and constraints under the words that users read."""

import django.core.validators
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('cars', '0005_revisions'),
    ]

    operations = [
        migrations.RenameModel("Claim", "ManufacturerClaim"),
        migrations.RenameModel("PackSpell", "BatteryInterval"),
        migrations.RenameModel("PackReading", "BatteryReading"),
        migrations.RemoveConstraint(
            model_name='batteryinterval',
            name='pack_spell_once',
        ),
        migrations.RemoveConstraint(
            model_name='batteryreading',
            name='pack_reading_once',
        ),
        migrations.RemoveConstraint(
            model_name='setup',
            name='set_up_name_once_a_car',
        ),
        migrations.RemoveConstraint(
            model_name='setup',
            name='set_up_tire_pressure_in_range',
        ),
        migrations.RenameField(
            model_name='batteryreading',
            old_name='pack_temp_c',
            new_name='battery_temp_c',
        ),
        migrations.RenameField(
            model_name='batteryreading',
            old_name='spell',
            new_name='interval',
        ),
        migrations.RenameField(
            model_name='car',
            old_name='pack_kwh',
            new_name='battery_kwh',
        ),
        migrations.RenameField(
            model_name='setup',
            old_name='promised_gain_s',
            new_name='claimed_gain_s',
        ),
        migrations.RenameField(
            model_name='setup',
            old_name='promised_measure',
            new_name='claimed_measure',
        ),
        migrations.RenameField(
            model_name='car',
            old_name='hottest_pack_c',
            new_name='hottest_battery_c',
        ),
        migrations.AlterField(
            model_name='car',
            name='hottest_battery_c',
            field=models.FloatField(blank=True, help_text='to what the car conditions its battery', null=True, validators=[django.core.validators.MinValueValidator(20), django.core.validators.MaxValueValidator(80)]),
        ),
        migrations.AlterField(
            model_name='batteryinterval',
            name='car',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='battery_intervals', to='cars.car'),
        ),
        migrations.AlterField(
            model_name='car',
            name='heater_kw',
            field=models.FloatField(blank=True, help_text='drawn to heat the battery', null=True, validators=[django.core.validators.MinValueValidator(0.5), django.core.validators.MaxValueValidator(30)]),
        ),
        migrations.AlterField(
            model_name='setup',
            name='can_undo',
            field=models.BooleanField(default=True, help_text='whether the car can go back to the setup before it'),
        ),
        migrations.AlterField(
            model_name='setup',
            name='car',
            field=models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='setups', to='cars.car'),
        ),
        migrations.AddConstraint(
            model_name='batteryinterval',
            constraint=models.UniqueConstraint(fields=('car', 'kind', 'began_at'), name='battery_interval_once'),
        ),
        migrations.AddConstraint(
            model_name='batteryreading',
            constraint=models.UniqueConstraint(fields=('interval', 'minutes'), name='battery_reading_once'),
        ),
        migrations.AddConstraint(
            model_name='setup',
            constraint=models.UniqueConstraint(fields=('car', 'name'), name='setup_name_once_a_car'),
        ),
        migrations.AddConstraint(
            model_name='setup',
            constraint=models.CheckConstraint(condition=models.Q(('tire_pressure_kpa__isnull', True), ('tire_pressure_kpa__range', (80, 500)), _connector='OR'), name='setup_tire_pressure_in_range'),
        ),
        migrations.AlterField(
            model_name='setup',
            name='claimed_measure',
            field=models.CharField(blank=True, help_text='what was claimed to be quicker', max_length=24),
        ),
    ]
