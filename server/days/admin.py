"""Test days in the admin."""

from django.contrib import admin

from days.models import TestDay

admin.site.register(TestDay)
