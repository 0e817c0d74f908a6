"""The tables of logs and runs.

choices     what columns may hold
logs        logs, CAN logs, rejected lines, layouts of tables
imports     files that were sent and are being timed
runs        runs, their fixes and curves, flags, attachments
measured    measures and splits
receivers   what is known of the devices that write logs
"""

from runs.models.choices import ClockName, RunKind, Severity, Validity, VoidReason
from runs.models.imports import Import, ImportState
from runs.models.logs import CanLog, Driven, Log, Rejection, TableColumn, TableLayout, UntimedRun
from runs.models.measured import Measured, Split, number, u95, u95_name, value_of
from runs.models.receivers import Receiver, smoothing_of
from runs.models.runs import Attachment, Flag, Run, RunTrace, may_count

__all__ = [
    "Attachment",
    "CanLog",
    "ClockName",
    "Driven",
    "Flag",
    "Import",
    "ImportState",
    "Log",
    "Measured",
    "Receiver",
    "Rejection",
    "Run",
    "RunKind",
    "RunTrace",
    "Severity",
    "Split",
    "TableColumn",
    "TableLayout",
    "UntimedRun",
    "Validity",
    "VoidReason",
    "may_count",
    "number",
    "smoothing_of",
    "u95",
    "u95_name",
    "value_of",
]
