"""Tables, columns and constraints under the words that users read."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('comparisons', '0002_arms_and_settings'),
        ('runs', '0011_plain_words'),
    ]

    operations = [
        migrations.RenameModel("Arm", "Group"),
        migrations.RemoveConstraint(
            model_name='group',
            name='compared_arm_place_once',
        ),
        migrations.RemoveConstraint(
            model_name='group',
            name='compared_arm_name_once',
        ),
        migrations.RemoveConstraint(
            model_name='member',
            name='member_once_an_arm',
        ),
        migrations.RenameField(
            model_name='comparison',
            old_name='matters',
            new_name='difference_that_matters',
        ),
        migrations.RenameField(
            model_name='group',
            old_name='typed',
            new_name='typed_values',
        ),
        migrations.RenameField(
            model_name='member',
            old_name='arm',
            new_name='group',
        ),
        migrations.AlterField(
            model_name='comparison',
            name='match',
            field=models.BooleanField(default=False, help_text='only runs that have one of the other group at about its charge'),
        ),
        migrations.AlterField(
            model_name='group',
            name='comparison',
            field=models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='groups', to='comparisons.comparison'),
        ),
        migrations.AlterField(
            model_name='group',
            name='runs',
            field=models.ManyToManyField(related_name='groups', through='comparisons.Member', to='runs.run'),
        ),
        migrations.AddConstraint(
            model_name='group',
            constraint=models.UniqueConstraint(fields=('comparison', 'position'), name='compared_group_place_once'),
        ),
        migrations.AddConstraint(
            model_name='group',
            constraint=models.UniqueConstraint(fields=('comparison', 'name'), name='compared_group_name_once'),
        ),
        migrations.AddConstraint(
            model_name='member',
            constraint=models.UniqueConstraint(fields=('group', 'run'), name='member_once_a_group'),
        ),
    ]
