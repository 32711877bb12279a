from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin, OneRowAdmin
from aquifer.money.models import Contract, ContractPlan, MoneySettings, Price, Quote


@admin.register(Price)
class PriceAdmin(LeadAdmin):
    list_display = ("key", "words", "price", "cost")


@admin.register(Contract)
class ContractAdmin(LeadAdmin):
    list_display = ("site", "plan", "begins_on", "ends_on")
    raw_id_fields = ("site",)


admin.site.register([ContractPlan, Quote], LeadAdmin)
admin.site.register(MoneySettings, OneRowAdmin)
