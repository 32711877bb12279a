"""Jobs of planning. Running one twice is harmless: what it makes is written at its end, and once."""

from procrastinate.contrib.django import app

from aquifer import jobs
from aquifer.company.clock import by_its_clock
from aquifer.rounds import run


@app.task(name="rounds.plan", queue="planning", retry=jobs.WHEN_BACK)
@by_its_clock
def plan(run_id: int) -> None:
    run.work_on(run_id)


@jobs.ends("rounds.plan")
def given_up(why: str, run_id: int) -> None:
    """The plan before stays, and the next planning may begin."""
    run.give_up(run_id, why)
