"""Recorders in Django's own administration."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from recording.models import Device, Recorder, Recording

admin.site.register([Device, Recorder, Recording], ReadOnlyAdmin)
