"""Test days in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from days.models import TestDay

admin.site.register([TestDay], ReadOnlyAdmin)
