"""What the outbox follows."""

from django.apps import AppConfig


class OutboxConfig(AppConfig):
    name = "aquifer.outbox"

    def ready(self) -> None:
        """A time that was agreed in person is known; a new customer knows of none."""
        from aquifer.outbox import known
        from aquifer.rounds.promise import agreed, unknown

        agreed.connect(known.agreed, dispatch_uid="outbox.agreed")
        unknown.connect(known.unknown, dispatch_uid="outbox.unknown")
