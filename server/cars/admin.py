"""Cars and setups in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from cars.models import Car, Setup

admin.site.register([Car, Setup], ReadOnlyAdmin)
