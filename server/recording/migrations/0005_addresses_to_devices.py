"""Each recorder's addresses become devices."""

from urllib.parse import urlsplit

from django.db import migrations


def _host_and_port(address):
    parts = urlsplit(address if "//" in address else f"//{address}")
    try:
        return {"host": parts.hostname or "", "port": parts.port}
    except ValueError:
        return {"host": parts.hostname or "", "port": None}


def _receiver(recorder):
    if recorder.receiver_address.startswith("socket://"):
        return {"connection": "tcp", **_host_and_port(recorder.receiver_address)}
    return {"connection": "serial", "path": recorder.receiver_address[:120], "baud_rate": recorder.baud_rate}


def _can(recorder):
    address, slash, channel = recorder.bus_channel.rpartition("/")
    if slash:
        place = {"connection": "socketcand", "channel": channel[:20], **_host_and_port(address)}
    else:
        place = {"connection": "socketcan", "channel": recorder.bus_channel[:20]}
    return {**place, "dbc": recorder.dbc}


def make_devices(apps, schema_editor):
    device = apps.get_model("recording", "Device").objects

    def made(recorder, word, kind, place):
        return device.get_or_create(name=f"{recorder.name[:44]} {word}", defaults={"kind": kind, **place})[0]

    for recorder in apps.get_model("recording", "Recorder").objects.all():
        recorder.receiver = made(recorder, "receiver", "receiver", _receiver(recorder))
        if recorder.bus_interface:
            recorder.can = made(recorder, "CAN", "CAN", _can(recorder))
        if recorder.mast:
            place = {"connection": "tcp", **_host_and_port(recorder.mast)}
            recorder.weather_station = made(recorder, "weather", "weather station", place)
        if recorder.stand_in:
            place = {"connection": "tcp", **_host_and_port(recorder.stand_in)}
            recorder.simulation = made(recorder, "driver", "simulation", place)
        recorder.save()


class Migration(migrations.Migration):
    dependencies = [("recording", "0004_recorder_devices")]

    operations = [migrations.RunPython(make_devices, migrations.RunPython.noop)]
