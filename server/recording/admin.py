"""Recorders in Django's own administration."""

from django.contrib import admin

from recording.models import Recorder, Recording

admin.site.register([Recorder, Recording])
