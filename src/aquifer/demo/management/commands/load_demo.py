"""Simulate the invented district, write its files, and bring them in as any company's files would be."""

import datetime
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer.accounts.models import Role, User
from aquifer.attachments import keep as attachments
from aquifer.company.models import Company
from aquifer.demo import crew, customers, money, practised, years_ahead
from aquifer.demo.district import TECHNICIANS
from aquifer.demo.pictures import rating_plate
from aquifer.demo.simulate import simulate
from aquifer.demo.surroundings import CAMPAIGN, OPEN_ENDS, SEASONS, outline
from aquifer.forecasts import gaps
from aquifer.forecasts.recompute import recompute_all
from aquifer.formats.cells import UnreadableTable
from aquifer.formats.csv_table import csv_sheet, decoded
from aquifer.heaters import duplicates
from aquifer.heaters.models import Heater
from aquifer.imports.kinds import kinds
from aquifer.imports.models import RowAction
from aquifer.open_ends import keep as open_ends
from aquifer.open_ends.schemas import CampaignIn, OpenEndIn
from aquifer.pages import DEMO_PASSWORD
from aquifer.rounds import run as runs
from aquifer.rounds.models import RunKind
from aquifer.visits.models import Finding
from aquifer.water.models import Season, Zone

_FIRST, _LAST = TECHNICIANS[1].split(maxsplit=1)
PEOPLE: dict[str, tuple[str, str, Role, list[str]]] = {
    "planner": ("Ines", "Farrow", Role.PLANNER, []),
    "lead": ("Tamsin", "Vale", Role.LEAD, ["gas", "electrical", "plumbing"]),
    "technician": (_FIRST, _LAST, Role.TECHNICIAN, ["gas", "plumbing"]),
    "apprentice": ("Wren", "Ackerby", Role.APPRENTICE, []),
}


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--folder", type=Path, default=Path(settings.DATA) / "demo")
        parser.add_argument("--sites", type=int, default=300)
        parser.add_argument("--heaters", type=int, default=400)
        parser.add_argument("--seed", type=int, default=11)
        parser.add_argument("--unplanned", action="store_true", help="Leave the season for a person to plan.")

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
        Company.objects.update_or_create(pk=1, defaults={"name": "Fennick & Vale Heating Care", "phone": "555-0100"})
        folder: Path = options["folder"]
        simulate(today, options["seed"], options["sites"], options["heaters"]).write(folder)
        for kind in ("zones", "water_tests", "customers", "sites", "heaters", "visits", "features"):
            self._bring_in(kind, folder, today)
        self._surroundings(today)
        duplicates.renew()
        crew.load(today, DEMO_PASSWORD)
        practised.load(today)
        money.load_prices()
        heaters = recompute_all(today)
        gaps.renew(list(Zone.objects.values_list("pk", flat=True)), today)
        money.load(today, quoted=not options["unplanned"])
        if not options["unplanned"]:
            planned = runs.ask(RunKind.SEASON, today, 52, User.objects.get(username="planner"), today)
            runs.work_on(planned.pk)
            customers.load(today)
            years_ahead.calls(today)
            years_ahead.load(today)
        if options["verbosity"]:
            self.stdout.write(f"{heaters} heaters with {Finding.objects.count()} findings loaded and forecast.")

    def _surroundings(self, today: datetime.date) -> None:
        """The map, what stands around the heaters, and what is not in order."""
        for zone in Zone.objects.all():
            zone.outline = outline(zone.code)
            zone.save()
        for code, (name, other, share_of_year, other_share) in SEASONS.items():
            Season.objects.create(
                zone=Zone.objects.get(code=code),
                other=Zone.objects.get(code=other),
                name=name,
                share_of_year=share_of_year,
                other_share=other_share,
            )
        by = User.objects.get(username="technician")
        heaters = list(Heater.objects.order_by("pk")[5::23])
        for number, heater in enumerate(heaters[:18]):
            kind, severity, words = OPEN_ENDS[number % len(OPEN_ENDS)]
            payload = {"heater_id": heater.pk, "kind": kind, "severity": severity, "words": words}
            open_ends.raise_one(OpenEndIn.model_validate(payload), by, today)
        open_ends.start(CampaignIn.model_validate(CAMPAIGN), by, today)
        self._twice(heaters[:4:3])
        for number, heater in enumerate(heaters[:12]):
            attachments.add(heater.site_id, heater.pk, "Rating plate", rating_plate(heater, number), by)

    def _twice(self, heaters: list[Heater]) -> None:
        """Heaters that came a second time, with another company's list."""
        for heater in heaters:
            Heater.objects.create(
                tag=f"T{heater.pk:03}",
                site=heater.site,
                kind=heater.kind,
                maker=heater.maker.upper(),
                serial=heater.serial,
                capacity_l=heater.capacity_l,
                installed_on=heater.installed_on,
                install_certainty="estimated",
            )

    def _bring_in(self, kind: str, folder: Path, today: datetime.date) -> None:
        one = kinds(today)[kind]
        try:
            planned = one.plan(one.table, csv_sheet(decoded((folder / f"{kind}.csv").read_bytes())))
        except UnreadableTable as error:
            raise CommandError(f"{kind}.csv: {error}") from None
        refused = [row for row in planned if row.action is RowAction.REFUSE]
        if refused:
            raise CommandError(f"{kind}.csv, row {refused[0].number}: {refused[0].detail}")
        one.apply(one.table, planned)
