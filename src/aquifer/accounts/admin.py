from django.contrib import admin
from django.contrib.auth.admin import UserAdmin
from django.contrib.auth.forms import UserChangeForm

from aquifer.accounts.admin_site import LeadAdmin, Several
from aquifer.accounts.models import Licence, User


class AccountForm(UserChangeForm):  # type: ignore[type-arg]
    """Licenses are ticked, not typed."""

    licences = Several(Licence.choices)


@admin.register(User)
class AccountAdmin(LeadAdmin, UserAdmin):  # type: ignore[type-arg]
    form = AccountForm
    list_display = ("username", "first_name", "last_name", "role", "is_active")
    list_filter = ("role", "is_active")
    fieldsets = (
        (None, {"fields": ("username", "password")}),
        ("Person", {"fields": ("first_name", "last_name", "email")}),
        ("Work", {"fields": ("role", "licences", "is_active")}),
    )
    add_fieldsets = ((None, {"fields": ("username", "role", "password1", "password2")}),)
    filter_horizontal = ()
