from django.contrib import admin

from aquifer.accounts.admin_site import ReadOnlyAdmin
from aquifer.forecasts.models import Forecast


@admin.register(Forecast)
class ForecastAdmin(ReadOnlyAdmin):
    list_display = ("heater", "component", "due_on", "decided_by", "as_of", "model_version", "superseded_at")
    list_select_related = ("heater",)
    list_filter = ("component", "decided_by")
