from django.apps import AppConfig


class ProgramsConfig(AppConfig):
    name = "aquifer.programs"

    def ready(self) -> None:
        from aquifer.programs import events

        events.listen()
