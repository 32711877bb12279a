"""Write a backup of everything into a folder and prove it by a restore; or prove or restore one."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.utils import timezone

from aquifer import backups, environment
from aquifer.postgres import NotKept


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("path", type=Path, help="a folder to write into; with --prove or --restore, a backup")
        parser.add_argument("--keep", type=int, default=0, help="drop all but so many of the folder's backups")
        parser.add_argument("--prove", action="store_true", help="restore it into a database of its own, and drop that")
        parser.add_argument("--restore", action="store_true", help="put it in the place of what is here")

    def handle(self, *args: Any, **options: Any) -> None:
        path: Path = options["path"]
        try:
            if options["prove"] or options["restore"]:
                rows = backups.restore(path) if options["restore"] else backups.prove(path)
                done = "restored" if options["restore"] else "comes back whole"
                self.stdout.write(f"{path}: {done}, {sum(rows.values())} rows in {len(rows)} tables")
                if options["restore"] and environment.read().secret_key:
                    self.stdout.write("Put its key, in secret-key of AQUIFER_DATA, into AQUIFER_SECRET_KEY.")
                return
            made = backups.write(path, timezone.now())
            self.stdout.write(f"{made}: {made.stat().st_size / 1e6:.1f} MB, proved by a restore")
            for old in backups.thinned(path, options["keep"]) if options["keep"] > 0 else []:
                self.stdout.write(f"{old}: dropped")
        except NotKept as error:
            raise CommandError(str(error)) from None
