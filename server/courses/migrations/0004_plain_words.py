"""Tables, columns and constraints under the words that users read."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('courses', '0003_revisions'),
    ]

    operations = [
        migrations.AlterModelOptions(
            name='station',
            options={'ordering': ['distance_m']},
        ),
        migrations.RemoveConstraint(
            model_name='station',
            name='station_once_a_way',
        ),
        migrations.RenameField(
            model_name='course',
            old_name='run_off_m',
            new_name='runout_m',
        ),
        migrations.RenameField(
            model_name='station',
            old_name='way_m',
            new_name='distance_m',
        ),
        migrations.RenameField(
            model_name='station',
            old_name='height_m',
            new_name='elevation_m',
        ),
        migrations.AddConstraint(
            model_name='station',
            constraint=models.UniqueConstraint(fields=('course', 'distance_m'), name='station_once_per_distance'),
        ),
    ]
