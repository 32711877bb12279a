import calendar
import datetime

from django import forms
from django.contrib import admin
from django.http import HttpRequest

from aquifer.accounts.admin_site import LeadAdmin, MinutesOfDay, Several, is_lead
from aquifer.rounds.models import EQUIPMENT, Absence, Closed, CrewMember, Loan


class CrewMemberForm(forms.ModelForm):  # type: ignore[type-arg]
    """Hours as hours, days by their names, equipment from the known list."""

    begins = MinutesOfDay(initial=datetime.time(7, 30))
    ends = MinutesOfDay(initial=datetime.time(16, 30))
    lunch_earliest = MinutesOfDay(initial=datetime.time(11, 30))
    lunch_latest = MinutesOfDay(initial=datetime.time(13, 20))
    weekdays = Several(list(enumerate(calendar.day_name)), coerce=int, initial=[0, 1, 2, 3, 4])
    equipment = Several([(one, one) for one in EQUIPMENT])

    class Meta:
        model = CrewMember
        fields = "__all__"  # noqa: DJ007 - the lead's own form of every column


@admin.register(CrewMember)
class CrewMemberAdmin(LeadAdmin):
    form = CrewMemberForm
    list_display = ("user", "place", "working_days", "hours", "equipment", "helper", "active")

    @admin.display(description="days")
    def working_days(self, member: CrewMember) -> str:
        return ", ".join(calendar.day_abbr[day] for day in sorted(member.weekdays))

    @admin.display(description="hours")
    def hours(self, one: CrewMember) -> str:
        return f"{one.begins // 60}:{one.begins % 60:02d} to {one.ends // 60}:{one.ends % 60:02d}"


class DaysOffAdmin(LeadAdmin):
    """A day off that was a mistake is taken away again; nothing of the past rests on it."""

    def has_delete_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return is_lead(request)


@admin.register(Absence)
class AbsenceAdmin(DaysOffAdmin):
    list_display = ("why", "member", "first_on", "last_on")


@admin.register(Loan)
class LoanAdmin(DaysOffAdmin):
    list_display = ("tool", "lender", "borrower", "first_on", "last_on")


@admin.register(Closed)
class ClosedAdmin(DaysOffAdmin):
    list_display = ("site", "why", "first_on", "last_on", "yearly")
    raw_id_fields = ("site",)
