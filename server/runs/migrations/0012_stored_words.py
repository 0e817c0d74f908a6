"""Codes of flags, names of edited fields and channels of CAN data under the words that they have now."""

import io

import polars as pl
from django.db import migrations
from django.db.models import F, Value
from django.db.models.functions import Replace

FLAGS = {
    "pack_temperature_outside_window": "battery_temperature_outside_window",
    "set_up_not_confirmed": "setup_not_confirmed",
}
FIELDS = {
    "pack_temp_before_c": "battery_temp_before_c",
    "pack_temp_after_c": "battery_temp_after_c",
    "set_up": "setup",
}


def rename_codes(apps, _):
    """Flags and edits: one update a word."""
    flags, edits = (apps.get_model("runs", name).objects for name in ("Flag", "Edit"))
    for old, new in FLAGS.items():
        flags.filter(code=old).update(code=new, message=Replace(F("message"), Value("set-up"), Value("setup")))
    for old, new in FIELDS.items():
        edits.filter(field=old).update(field=new)


def rename_channels(apps, _):
    """The columns of each run's CAN data; a run at a time, since a blob may be large."""
    traces = apps.get_model("runs", "RunTrace").objects
    for number in traces.exclude(can_data=None).values_list("pk", flat=True):
        trace = traces.only("can_data").get(pk=number)
        columns = pl.read_parquet(io.BytesIO(bytes(trace.can_data)))
        named = columns.rename(lambda name: name.replace("pack_", "battery_"))
        if named.columns != columns.columns:
            written = io.BytesIO()
            named.write_parquet(written)
            traces.filter(pk=number).update(can_data=written.getvalue())


class Migration(migrations.Migration):
    dependencies = [("runs", "0011_plain_words")]
    operations = [
        migrations.RunPython(rename_codes, migrations.RunPython.noop),
        migrations.RunPython(rename_channels, migrations.RunPython.noop),
    ]
