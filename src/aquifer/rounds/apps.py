"""What rounds follow."""

from django.apps import AppConfig


class RoundsConfig(AppConfig):
    name = "aquifer.rounds"

    def ready(self) -> None:
        """Weeks begin when the company says so."""
        from aquifer.rounds.weeks import follow

        follow()
