"""Tables, columns and constraints under the words that users read."""

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('recording', '0008_fill_recording_states'),
    ]

    operations = [
        migrations.RenameField(
            model_name='recorder',
            old_name='set_up',
            new_name='setup',
        ),
        migrations.RenameField(
            model_name='recording',
            old_name='set_up',
            new_name='setup',
        ),
        migrations.AlterField(
            model_name='recorder',
            name='live_port',
            field=models.PositiveIntegerField(editable=False, help_text='where its process reports what it sees', null=True),
        ),
    ]
