"""Courses in the admin."""

from django.contrib import admin

from courses.models import Course

admin.site.register(Course)
