from django.apps import AppConfig


class VisitsConfig(AppConfig):
    name = "aquifer.visits"

    def ready(self) -> None:
        from aquifer.heaters import duplicates
        from aquifer.visits import merging

        duplicates.moved_by(merging.move)
