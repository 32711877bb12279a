from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin, OneRowAdmin
from aquifer.stock.models import Held, StockSettings


@admin.register(Held)
class HeldAdmin(LeadAdmin):
    list_display = ("part", "member", "quantity")


admin.site.register(StockSettings, OneRowAdmin)
