"""Copy the whole server beside its log and prove the copy; or make it anew as it was at a moment."""

import datetime
from pathlib import Path

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from django.utils import timezone

from aquifer import recovery
from aquifer.postgres import NotKept


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("folder", type=Path, help="where the copies and the log are")
        parser.add_argument("--keep", type=int, default=0, help="drop all but so many copies, and the log before them")
        parser.add_argument("--to", help="a moment, as 2026-11-28T16:40; the server's zone where none is said")
        parser.add_argument("--into", type=Path, help="with --to: a folder that is not there yet")

    def handle(
        self, *args: object, folder: Path, keep: int, to: str | None, into: Path | None, **options: object
    ) -> None:
        if (to is None) != (into is None):
            raise CommandError("--to needs --into, and the other way round.")
        try:
            if to is not None and into is not None:
                self._recover(folder, to, into)
                return
            made = recovery.copy(folder, timezone.now())
            size = sum(path.stat().st_size for path in made.iterdir())
            self.stdout.write(f"{made}: {size / 1e6:.1f} MB, and a server came up from it")
            for old in recovery.thinned(folder, keep) if keep > 0 else []:
                self.stdout.write(f"{old}: dropped")
        except NotKept as error:
            raise CommandError(str(error)) from None

    def _recover(self, folder: Path, said: str, into: Path) -> None:
        try:
            moment = datetime.datetime.fromisoformat(said)
        except ValueError:
            raise CommandError(f"{said!r} is no moment; one is 2026-11-28T16:40.") from None
        moment = moment if moment.tzinfo else timezone.make_aware(moment)
        found = recovery.recover(folder, moment, into, str(connection.settings_dict["NAME"]))
        last = (
            f"; the last write before is of {timezone.localtime(found.until):%Y-%m-%d %H:%M:%S}" if found.until else ""
        )
        self.stdout.write(
            f"{found.data}: as at {timezone.localtime(moment):%Y-%m-%d %H:%M:%S}{last}; "
            f"{sum(found.rows.values())} rows in {len(found.rows)} tables.\n"
            "It is stopped. Start PostgreSQL on it in the place of the other, or copy out of it what was lost."
        )
