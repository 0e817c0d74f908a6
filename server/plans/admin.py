"""Plans in the admin."""

from django.contrib import admin

from plans.models import Plan

admin.site.register(Plan)
