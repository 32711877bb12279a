from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin
from aquifer.customers.models import Customer, Site

admin.site.register(Customer, LeadAdmin)


@admin.register(Site)
class SiteAdmin(LeadAdmin):
    list_display = ("code", "name", "street", "zone")
    list_select_related = ("zone",)
    search_fields = ("code", "name", "street")
