"""Courses in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from courses.models import Course

admin.site.register([Course], ReadOnlyAdmin)
