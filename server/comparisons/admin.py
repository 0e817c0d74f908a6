"""Comparisons in the admin."""

from django.contrib import admin

from comparisons.models import Arm, Comparison

admin.site.register([Comparison, Arm])
