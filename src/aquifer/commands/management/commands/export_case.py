"""Print a heater on record as an open case, personal data left out."""

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer.core.case import as_json
from aquifer.forecasts.export import case_of
from aquifer.heaters.models import Heater


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("tag")

    def handle(self, *args: object, **options: object) -> None:
        heater = Heater.objects.select_related("site__zone").filter(tag=str(options["tag"])).first()
        if heater is None:
            raise CommandError(f"there is no heater with the tag {options['tag']}")
        self.stdout.write(as_json(case_of(heater, timezone.localdate())))
