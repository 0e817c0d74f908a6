"""Imports in the background."""

import django.db.models.deletion
import uuid
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('cars', '0006_plain_words'),
        ('runs', '0012_stored_words'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Import',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('spool', models.UUIDField(default=uuid.uuid4, editable=False, help_text='names its bytes meanwhile', unique=True)),
                ('name', models.CharField(max_length=255)),
                ('can_name', models.CharField(blank=True, help_text='of a CAN log that goes with it', max_length=255)),
                ('asked', models.JSONField(help_text='conditions of its runs, and what its columns, date and CAN log need')),
                ('state', models.CharField(choices=[('waiting', 'Waiting'), ('timing', 'Timing'), ('done', 'Done'), ('refused', 'Refused'), ('canceled', 'Canceled')], default='waiting', max_length=10)),
                ('sha256', models.CharField(max_length=64)),
                ('runs_found', models.PositiveIntegerField(default=0)),
                ('runs_timed', models.PositiveIntegerField(default=0)),
                ('already', models.BooleanField(default=False, help_text='the same bytes were there already')),
                ('refusal', models.JSONField(help_text='the problem, where it was refused', null=True)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('ended_at', models.DateTimeField(null=True)),
                ('created_by', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='imports', to=settings.AUTH_USER_MODEL)),
                ('log', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='imports', to='runs.log')),
                ('setup', models.ForeignKey(on_delete=django.db.models.deletion.PROTECT, related_name='imports', to='cars.setup')),
            ],
            options={
                'ordering': ['-created_at', '-id'],
            },
        ),
    ]
