from django.apps import AppConfig


class FullExportConfig(AppConfig):
    name = "aquifer.full_export"
    # Its tables are named after it.
    label = "whole_base"
