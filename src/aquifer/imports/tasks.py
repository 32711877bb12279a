"""Jobs of an import. Running one twice is harmless: each looks first at the state of its run."""

from procrastinate.contrib.django import app

from aquifer import jobs
from aquifer.company.clock import by_its_clock
from aquifer.imports import run


@app.task(name="imports.check", queue="imports", retry=jobs.WHEN_BACK)
@by_its_clock
def check(run_id: int) -> None:
    run.check(run_id)


@app.task(name="imports.bring_in", queue="imports", retry=jobs.WHEN_BACK)
@by_its_clock
def bring_in(run_id: int) -> None:
    run.bring_in(run_id)


@jobs.ends("imports.check")
@jobs.ends("imports.bring_in")
def given_up(why: str, run_id: int) -> None:
    """Nothing of the file was written."""
    run.give_up(run_id, why)
