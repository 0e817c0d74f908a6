"""The addresses go."""

from django.db import migrations

GONE = ("receiver_address", "baud_rate", "bus_interface", "bus_channel", "dbc", "mast", "stand_in")


class Migration(migrations.Migration):
    dependencies = [("recording", "0005_addresses_to_devices")]

    operations = [migrations.RemoveField("recorder", name) for name in GONE]
