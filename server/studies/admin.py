"""Studies in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from studies.models import OwnMeasure, OwnValue, Series, Study, TableView

admin.site.register([OwnMeasure, OwnValue, Series, Study, TableView], ReadOnlyAdmin)
