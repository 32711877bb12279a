"""Django's administration, for the lead only."""

import datetime
from collections.abc import Callable, Sequence

from django import forms
from django.contrib import admin
from django.contrib.admin.apps import AdminConfig
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect


def is_lead(request: HttpRequest) -> bool:
    user = request.user
    return bool(user.is_active and user.is_authenticated and user.role == "lead")


class LeadAdminSite(admin.AdminSite):
    site_header = "Aquifer administration"
    site_title = "Aquifer"
    index_title = "Records"

    def has_permission(self, request: HttpRequest) -> bool:
        return is_lead(request)


class LeadAdminConfig(AdminConfig):
    default_site = "aquifer.accounts.admin_site.LeadAdminSite"


class LeadAdmin(admin.ModelAdmin):  # type: ignore[type-arg]
    """Everything on record may be seen and, unless it is a fact of the past, changed by the lead."""

    def has_module_permission(self, request: HttpRequest) -> bool:
        return is_lead(request)

    def has_view_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return is_lead(request)

    def has_add_permission(self, request: HttpRequest, *args: object) -> bool:
        return is_lead(request)

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return is_lead(request)

    def has_delete_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return False


class OneRowAdmin(LeadAdmin):
    """Settings: there is one row, which the list leads to; none is added beside it."""

    def has_add_permission(self, request: HttpRequest, *args: object) -> bool:
        return False

    def changelist_view(self, request: HttpRequest, extra_context: dict[str, object] | None = None) -> HttpResponse:
        """The one row itself, made if there is none yet."""
        own, (row, _) = self.model._meta, self.model._default_manager.get_or_create(pk=1)
        return redirect(f"admin:{own.app_label}_{own.model_name}_change", row.pk)


class Several(forms.TypedMultipleChoiceField):
    """What is ticked of a known list, for a column that holds several."""

    widget = forms.CheckboxSelectMultiple

    def __init__(
        self,
        options: Sequence[tuple[int | str, str]],
        coerce: Callable[[str], int | str] = str,
        initial: Sequence[int] = (),
        label: str | None = None,
        help_text: str = "",
    ) -> None:
        super().__init__(
            choices=options, coerce=coerce, required=False, initial=list(initial), label=label, help_text=help_text
        )


class MinutesOfDay(forms.TimeField):
    """A time of the day, kept as minutes after midnight."""

    widget = forms.TimeInput(attrs={"type": "time"}, format="%H:%M")

    def prepare_value(self, value: object) -> object:
        """As it is shown."""
        return datetime.time(value // 60, value % 60) if isinstance(value, int) else value

    def to_python(self, value: str | datetime.time | None) -> int | None:  # type: ignore[override]
        """As it is kept."""
        found = super().to_python(value)
        return None if found is None else 60 * found.hour + found.minute


class ReadOnlyAdmin(LeadAdmin):
    """Facts of the past: seen, never changed."""

    def has_add_permission(self, request: HttpRequest, *args: object) -> bool:
        return False

    def has_change_permission(self, request: HttpRequest, obj: object = None) -> bool:
        return False
