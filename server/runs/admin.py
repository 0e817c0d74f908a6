"""Logs and runs in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from runs.models import Log, Run

admin.site.register([Log, Run], ReadOnlyAdmin)
