"""Write the whole base to a file: tables, cases, maps, address cards, photographs and documents in a zip archive."""

from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer.full_export.write import write


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)
        parser.add_argument("--without-cases", action="store_true", help="the slow part of a large base")

    def handle(self, *args: object, **options: object) -> None:
        path = Path(str(options["file"]))
        try:
            with path.open("xb") as target:
                write(target, timezone.now(), cases=not options["without_cases"])
        except OSError as error:
            raise CommandError(f"{path}: {error.strerror}") from None
        self.stdout.write(f"{path}: {path.stat().st_size / 1e6:.1f} MB")
