from django.apps import AppConfig


class FullExportConfig(AppConfig):
    name = "aquifer.full_export"
