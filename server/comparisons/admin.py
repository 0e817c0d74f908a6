"""Comparisons in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from comparisons.models import Comparison, Group

admin.site.register([Comparison, Group], ReadOnlyAdmin)
