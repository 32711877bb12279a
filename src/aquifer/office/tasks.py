"""Jobs of the office. Running one twice sends a second link; both are good until one is used."""

import uuid

from django.db.models import Q
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from aquifer.accounts import audit
from aquifer.accounts.models import Session, User
from aquifer.jobs import WHEN_BACK
from aquifer.office import passwords
from aquifer.outbox.gateway import Refused, gateway, sends

_AGAIN = RetryStrategy(max_attempts=5, exponential_wait=4)


@app.task(name="office.send_password_link", queue="outbox", retry=_AGAIN)
def send_password_link(name: str) -> None:
    """Send a link to whoever signs in by this name or has this address. A job, so that asking takes as long for an
    account that there is as for one that there is not."""
    if not sends() or not name:
        return
    for one in User.objects.filter(Q(username__iexact=name) | Q(email__iexact=name), is_active=True).exclude(email=""):
        body = (
            f"Dear {one.name},\n\nsomebody, you we hope, asked for a new password for {one.username}. Set it "
            f"here within {passwords.hours_good()} hours:\n\n{passwords.address(one)}\n\n"
            "If it was not you, nothing is to be done: the password you have stays good."
        )
        try:
            gateway().send(uuid.uuid4(), one.email, "A new password", body)
        except Refused:
            continue


@app.periodic(cron="40 3 * * *")
@app.task(name="office.forget", queue="jobs", retry=WHEN_BACK)
def forget(timestamp: int) -> None:
    """Nightly: sessions that ended, and what is noted of people for longer than it is kept."""
    Session.objects.filter(expire_date__lt=timezone.now()).delete()
    audit.forget()
