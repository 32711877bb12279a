"""Simulate the invented district, write its files, and bring them in as any company's files would be."""

import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer.accounts.models import Role, User
from aquifer.company.models import Company
from aquifer.demo.district import TECHNICIANS
from aquifer.demo.simulate import simulate
from aquifer.forecasts.recompute import recompute_all
from aquifer.formats.csv_table import UnreadableTable, decoded
from aquifer.heaters.models import Heater
from aquifer.imports import history
from aquifer.imports.apply import apply
from aquifer.imports.models import RowAction
from aquifer.imports.plan import plan
from aquifer.imports.tables import tables
from aquifer.pages import DEMO_PASSWORD

PEOPLE = {
    "planner": ("Ines", "Farrow", Role.PLANNER, []),
    "lead": ("Tamsin", "Vale", Role.LEAD, ["gas", "electrical", "plumbing"]),
    "technician": (*TECHNICIANS[1].split(maxsplit=1), Role.TECHNICIAN, ["gas", "plumbing"]),
    "apprentice": ("Wren", "Ackerby", Role.APPRENTICE, []),
}


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--folder", type=Path, default=Path(settings.DATA) / "demo")
        parser.add_argument("--sites", type=int, default=300)
        parser.add_argument("--heaters", type=int, default=400)
        parser.add_argument("--seed", type=int, default=11)

    def handle(self, *args: Any, **options: Any) -> None:
        today = timezone.localdate()
        for username, (first, last, role, licences) in PEOPLE.items():
            if not User.objects.filter(username=username).exists():
                person = User(username=username, first_name=first, last_name=last, role=role, licences=licences)
                person.set_password(DEMO_PASSWORD)
                person.save()
        if Heater.objects.exists():
            self.stdout.write("The register is not empty; the demo district was not loaded into it.")
            return
        Company.objects.update_or_create(pk=1, defaults={"name": "Fennick & Vale Heating Care"})
        folder: Path = options["folder"]
        simulate(today, options["seed"], options["sites"], options["heaters"]).write(folder)
        for kind in ("zones", "water_tests", "customers", "sites", "heaters"):
            self._bring_in(kind, folder, today)
        try:
            findings = history.load(decoded((folder / "visits.csv").read_bytes()), today)
        except (UnreadableTable, history.RefusedHistory) as error:
            raise CommandError(f"visits.csv: {error}") from None
        heaters = recompute_all(today)
        if options["verbosity"]:
            self.stdout.write(f"{heaters} heaters and {findings} findings loaded and forecast.")

    def _bring_in(self, kind: str, folder: Path, today: datetime.date) -> None:
        table = tables(today)[kind]
        try:
            planned = plan(table, decoded((folder / f"{kind}.csv").read_bytes()))
        except UnreadableTable as error:
            raise CommandError(f"{kind}.csv: {error}") from None
        refused = [row for row in planned if row.action is RowAction.REFUSE]
        if refused:
            raise CommandError(f"{kind}.csv, row {refused[0].number}: {refused[0].detail}")
        apply(table, planned)
