"""Plans in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from plans.models import Plan

admin.site.register([Plan], ReadOnlyAdmin)
