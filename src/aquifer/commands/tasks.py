"""Jobs about jobs."""

from procrastinate.contrib.django import app

from aquifer import jobs


@app.periodic(cron="* * * * *")
@app.task(name="jobs.revive", queue="jobs")
def revive(timestamp: int) -> None:
    """Every minute: jobs of workers that died are begun again."""
    jobs.revive()
