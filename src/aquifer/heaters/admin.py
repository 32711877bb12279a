from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin
from aquifer.heaters.models import Heater, Part


@admin.register(Heater)
class HeaterAdmin(LeadAdmin):
    list_display = ("tag", "kind", "site", "installed_on", "archived_at")
    list_select_related = ("site",)
    list_filter = ("kind",)
    search_fields = ("tag", "serial", "site__name")
    raw_id_fields = ("site",)
    readonly_fields = ("version", "archived_at")


@admin.register(Part)
class PartAdmin(LeadAdmin):
    list_display = ("heater", "kind", "fitted_on", "removed_on", "alloy")
    list_select_related = ("heater",)
    raw_id_fields = ("heater",)
