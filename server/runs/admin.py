"""Logs and runs in the admin, to look at."""

from django.contrib import admin

from runs.models import Log, Run

admin.site.register(Log)
admin.site.register(Run)
