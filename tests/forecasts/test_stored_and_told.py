"""What this room stores and what it tells the browser, against what is kept of both: a field that may be empty, a
length or what is taken for granted does not change unseen."""

from django.core.management import call_command

from tests.described import now_and_kept


def test_its_tables_are_those_of_its_migrations(db):
    call_command("makemigrations", "forecasts", check=True, dry_run=True, interactive=False, verbosity=0)


def test_its_doors_take_and_give_what_the_browser_knows():
    now, kept = now_and_kept("forecasts")
    assert now == kept
    assert len(kept) > 15
