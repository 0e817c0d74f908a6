"""Devices: what a recorder may be connected to."""

import django.core.validators
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("recording", "0002_heads_up")]

    operations = [
        migrations.CreateModel(
            name="Device",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60, unique=True)),
                ("kind", models.CharField(choices=[("receiver", "GPS receiver"), ("CAN", "Can"), ("weather station", "Weather"), ("simulation", "simulated car and driver")], max_length=16)),
                ("connection", models.CharField(choices=[("serial", "serial port"), ("tcp", "TCP"), ("socketcan", "CAN interface of this machine"), ("socketcand", "CAN over the network (socketcand)")], max_length=12)),
                ("path", models.CharField(blank=True, help_text="of a serial port, such as /dev/ttyACM0", max_length=120)),
                ("baud_rate", models.PositiveIntegerField(default=115200, validators=[django.core.validators.MinValueValidator(1200), django.core.validators.MaxValueValidator(4000000)])),
                ("host", models.CharField(blank=True, help_text="of TCP and socketcand", max_length=120)),
                ("port", models.PositiveIntegerField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(1), django.core.validators.MaxValueValidator(65535)])),
                ("channel", models.CharField(blank=True, help_text="of CAN, such as can0", max_length=20)),
                ("dbc", models.TextField(blank=True, help_text="decodes CAN; Coombe's own where empty", max_length=2000000)),
                ("revision", models.PositiveIntegerField(default=1)),
            ],
            options={"ordering": ["name"]},
        ),
    ]
