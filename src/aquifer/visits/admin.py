from django.contrib import admin

from aquifer.accounts.admin_site import ReadOnlyAdmin
from aquifer.visits.models import Finding, Visit


@admin.register(Visit)
class VisitAdmin(ReadOnlyAdmin):
    list_display = ("heater", "on", "technician", "recorded_at")
    list_select_related = ("heater",)


@admin.register(Finding)
class FindingAdmin(ReadOnlyAdmin):
    list_display = ("heater", "on", "task", "removed", "grade", "outcome")
    list_select_related = ("heater",)
