from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin, ReadOnlyAdmin
from aquifer.water.models import WaterTest, Zone

admin.site.register(Zone, LeadAdmin)


@admin.register(WaterTest)
class WaterTestAdmin(ReadOnlyAdmin):
    list_display = ("zone", "taken_on", "method", "total_hardness_mg_l", "alkalinity_mg_l", "ph")

    def has_add_permission(self, request: object, *args: object) -> bool:
        return True
