"""Reports in the admin, to look at."""

from django.contrib import admin

from accounts.admin import ReadOnlyAdmin
from reports.models import Report, Share, Sharing, Version

admin.site.register([Report, Version, Share, Sharing], ReadOnlyAdmin)
