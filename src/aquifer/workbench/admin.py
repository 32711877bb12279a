from django.contrib import admin

from aquifer.accounts.admin_site import LeadAdmin
from aquifer.workbench.models import Practised


@admin.register(Practised)
class PractisedAdmin(LeadAdmin):
    list_display = ("at", "by", "scenario", "guided", "passed", "share")
    list_filter = ("scenario", "passed")
