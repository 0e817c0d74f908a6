"""Comparisons in the admin."""

from django.contrib import admin

from comparisons.models import Comparison

admin.site.register(Comparison)
