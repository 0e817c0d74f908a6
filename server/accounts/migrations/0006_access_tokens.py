"""Personal access tokens."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0005_drop_lock_out_tables'),
    ]

    operations = [
        migrations.AlterField(
            model_name='securityevent',
            name='kind',
            field=models.CharField(choices=[('log-in', 'Log In'), ('log-out', 'Log Out'), ('failed log-in', 'Failed'), ('held back', 'Held Back'), ('password changed', 'Password'), ('person changed', 'Person'), ('token', 'Token'), ('deleted', 'Deleted'), ('exported', 'Exported')], max_length=20),
        ),
        migrations.CreateModel(
            name='AccessToken',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(help_text='what it is for', max_length=60)),
                ('role', models.CharField(choices=[('administrator', 'Administrator'), ('tester', 'Tester'), ('reader', 'Reader')], default='reader', help_text='what it may do at most', max_length=16)),
                ('digest', models.CharField(help_text='SHA-256 of the secret', max_length=64, unique=True)),
                ('ending', models.CharField(help_text="the secret's last characters, to recognize it by", max_length=4)),
                ('created_at', models.DateTimeField(auto_now_add=True)),
                ('used_at', models.DateTimeField(help_text='to the minute', null=True)),
                ('owner', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='tokens', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-created_at', '-id'],
                'constraints': [models.CheckConstraint(condition=models.Q(('role__in', ['administrator', 'tester', 'reader'])), name='token_role_known')],
            },
        ),
    ]
