"""Bring the database up to date and, where asked, load the demo district: all that ./run needs, in one process."""

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from aquifer.forecasts.tasks import defer_all_if_outdated


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: object, **options: object) -> None:
        call_command("migrate", verbosity=0)
        defer_all_if_outdated()
        if options["demo"]:
            call_command("load_demo", stdout=self.stdout)
