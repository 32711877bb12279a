"""Bring a whole base in from its file, into an installation that has no records yet, and forecast it."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer.forecasts import gaps
from aquifer.forecasts.recompute import recompute_all
from aquifer.full_export.read import UnreadableBase, read
from aquifer.water.models import Zone


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *args: object, **options: object) -> None:
        path = Path(str(options["file"]))
        try:
            with path.open("rb") as source:
                counts = read(source)
        except (OSError, UnreadableBase) as error:
            raise CommandError(f"{path}: {error}") from None
        today = timezone.localdate()
        recompute_all(today)
        gaps.renew(list(Zone.objects.values_list("pk", flat=True)), today)
        told = ", ".join(f"{count} {name.replace('_', ' ')}" for name, count in counts.items() if count)
        self.stdout.write(f"Brought in and forecast: {told}.")
