"""Django's administration, for the lead only."""

from typing import Any

from django.contrib import admin
from django.contrib.admin.apps import AdminConfig
from django.http import HttpRequest


def is_lead(request: HttpRequest) -> bool:
    user: Any = request.user
    return bool(user.is_active and user.is_authenticated and user.role == "lead")


class LeadAdminSite(admin.AdminSite):
    site_header = "Aquifer administration"
    site_title = "Aquifer"
    index_title = "Records"

    def has_permission(self, request: HttpRequest) -> bool:
        return is_lead(request)


class LeadAdminConfig(AdminConfig):
    default_site = "aquifer.accounts.admin_site.LeadAdminSite"


class LeadAdmin(admin.ModelAdmin):
    """Everything on record may be seen and, unless it is a fact of the past, changed by the lead."""

    def has_module_permission(self, request: HttpRequest) -> bool:
        return is_lead(request)

    def has_view_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return is_lead(request)

    def has_add_permission(self, request: HttpRequest, *args: Any) -> bool:
        return is_lead(request)

    def has_change_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return is_lead(request)

    def has_delete_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False


class ReadOnlyAdmin(LeadAdmin):
    """Facts of the past: seen, never changed."""

    def has_add_permission(self, request: HttpRequest, *args: Any) -> bool:
        return False

    def has_change_permission(self, request: HttpRequest, obj: Any = None) -> bool:
        return False
