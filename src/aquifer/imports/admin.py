from django.contrib import admin

from aquifer.accounts.admin_site import ReadOnlyAdmin
from aquifer.imports.models import ImportRun


@admin.register(ImportRun)
class ImportRunAdmin(ReadOnlyAdmin):
    list_display = ("kind", "file_name", "state", "rows_total", "started_at", "started_by")
    exclude = ("data",)
