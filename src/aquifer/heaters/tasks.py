"""Jobs of the register."""

from procrastinate.contrib.django import app

from aquifer.company.clock import by_its_clock
from aquifer.heaters import duplicates
from aquifer.jobs import WHEN_BACK


@app.periodic(cron="5 2 * * *")
@app.task(name="heaters.look_for_duplicates", queue="forecasts", retry=WHEN_BACK)
@by_its_clock
def look_for_duplicates(timestamp: int) -> None:
    """Every night: pairs of heaters that may be one, among all of them."""
    duplicates.renew()
