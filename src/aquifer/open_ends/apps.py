from django.apps import AppConfig


class OpenEndsConfig(AppConfig):
    name = "aquifer.open_ends"

    def ready(self) -> None:
        from aquifer.heaters import duplicates
        from aquifer.open_ends import merging

        duplicates.moved_by(merging.move)
