"""Set up an empty installation: tell the key for its first page, or make company and first lead at once."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from aquifer import environment, first_start


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--key", action="store_true", help="tell the key; nothing once there is a lead")
        for name in ("company", "units", "hardness-unit", "time-zone", "clock", "week-start", "currency"):
            parser.add_argument(f"--{name}")
        for name in ("first-name", "username"):
            parser.add_argument(f"--{name}")
        parser.add_argument("--yard", default="")
        parser.add_argument("--yard-at", default="", help="latitude, longitude")
        parser.add_argument("--licence", action="append", default=[], dest="licences")
        parser.add_argument("--equipment", action="append", default=[])
        parser.add_argument("--stays-in", action="store_false", dest="goes_out", help="the lead does not go out")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["key"]:
            if first_start.is_needed():
                self.stdout.write(first_start.key())
            return
        if not first_start.is_needed():
            raise CommandError("There is a lead already; further people are made under Settings, People.")
        password = environment.read().first_password
        if not password:
            raise CommandError("Give the lead's password in AQUIFER_FIRST_PASSWORD: a list of processes shows options.")
        form = first_start.FirstStart({**options, "password": password})
        if not form.is_valid():
            raise CommandError("; ".join(f"{name}: {' '.join(map(str, said))}" for name, said in form.errors.items()))
        self.stdout.write(f"{first_start.begin(form.cleaned_data).username} may sign in.")
