from typing import Any

from django.contrib import admin
from django.http import HttpRequest

from aquifer.accounts.admin_site import LeadAdmin, is_lead
from aquifer.rounds.models import Absence, Closed, CrewMember


@admin.register(CrewMember)
class CrewMemberAdmin(LeadAdmin):
    list_display = ("user", "place", "weekdays", "begins", "ends", "equipment", "helper", "active")


class DaysOffAdmin(LeadAdmin):
    """A day off that was a mistake is taken away again; nothing of the past rests on it."""

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return is_lead(request)


@admin.register(Absence)
class AbsenceAdmin(DaysOffAdmin):
    list_display = ("why", "member", "first_on", "last_on")


@admin.register(Closed)
class ClosedAdmin(DaysOffAdmin):
    list_display = ("site", "why", "first_on", "last_on", "yearly")
    raw_id_fields = ("site",)
