"""Cars and set-ups in the admin."""

from django.contrib import admin

from cars.models import Car, SetUp

admin.site.register(Car)
admin.site.register(SetUp)
