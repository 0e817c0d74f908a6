"""What the columns of logs and runs may hold."""

from __future__ import annotations

from django.db import models


class RunKind(models.TextChoices):
    """What kind of run it is."""

    STANDING = "standing", "standing start"
    ROLLING = "rolling", "roll-on"
    STOP = "stop", "stop"


class Validity(models.TextChoices):
    """Whether a run counts; a void run is kept, and out of every statistic."""

    VALID = "valid"
    VOID = "void"


class VoidReason(models.TextChoices):
    """Why a run was voided."""

    JUMPED = "jumped"
    LIFTED = "lifted early"
    SPUN = "wheel spin"
    RECEIVER = "receiver moved"
    TRAFFIC = "traffic"
    GAP = "gap in the fix"
    CONDITIONS = "wrong conditions"
    OTHER = "other"


class Severity(models.TextChoices):
    """How heavy a flag is."""

    VOID = "void"
    CAUTION = "caution"
    NOTE = "note"


class ClockName(models.TextChoices):
    """Where a measure's time starts."""

    FIRST_MOVEMENT = "first_movement"
    ROLLOUT = "rollout"
    SPEED = "speed"
