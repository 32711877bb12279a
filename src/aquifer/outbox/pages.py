"""The page that a customer's link opens, and calendars."""

import datetime

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_http_methods

from aquifer.company.models import Company
from aquifer.errors import AquiferError, Conflict
from aquifer.outbox import answer, calendar, links, write
from aquifer.outbox.models import CHANGES, Answered, Message
from aquifer.rounds.models import AppointmentStatus

GIVES_UP = (Answered.OTHER_TIME, Answered.DECLINED)
"""What lets a time go that may not come again: it is looked over once before it counts."""


@never_cache
@require_http_methods(["GET", "POST"])
def answer_page(request: HttpRequest, token: str) -> HttpResponse:
    """A customer's offer, and their answer to it."""
    ours = Company.current()
    company = ours.name
    looked_over = ""
    try:
        message = links.opened(token)
        if request.method == "POST":
            said = request.POST.get("said", "")
            if said == "stop":
                answer.stop_writing(message)
            elif said.startswith("slot:"):
                on, member_id = _slot(said)
                answer.choose(message.pk, on, member_id, timezone.localdate())
            elif said in GIVES_UP and "sure" not in request.POST and _is_open(message):
                looked_over = said
            elif said in (Answered.ACCEPTED, Answered.OTHER_TIME, Answered.DECLINED):
                answer.answer(message.pk, Answered(said), request.POST.get("words", "").replace("\x00", "").strip())
            message = links.opened(token)
        given = getattr(message, "answer", None)
    except AquiferError as error:
        return render(
            request,
            "answer.html",
            {"company": company, "phone": ours.phone, "logo": ours.logo, "trouble": error.message},
            status=error.status,
        )
    appointment = message.appointment
    told = {
        "company": company,
        "phone": ours.phone,
        "logo": ours.logo,
        "message": message,
        "site": appointment.site.name if appointment else "",
        "times": write.times(appointment) if appointment else "",
        "prepare": write.prepare(appointment) if appointment else [],
        "answer": given,
        "calendar": f"/answer/{token}/visit.ics"
        if appointment and appointment.standing == AppointmentStatus.PROMISED and appointment.on
        else "",
        "open": _is_open(message),
        "news": news(message),
        "choices": answer.choices(message, timezone.localdate()) if given is None else [],
        "stopped": request.POST.get("said") == "stop",
        "look_over": looked_over,
        "words": request.POST.get("words", "")[:300].replace("\x00", "").strip(),
    }
    return render(request, "answer.html", told)


def _is_open(message: Message) -> bool:
    return getattr(message, "answer", None) is None and answer.still_offered(message)


def _slot(said: str) -> tuple[datetime.date, int]:
    """ "slot:2026-12-03:4": a day and whose. Raises: Conflict for anything else."""
    try:
        _, on, member_id = said.split(":")
        return datetime.date.fromisoformat(on), int(member_id) % 2**62
    except ValueError:
        raise Conflict("This time is no longer free. Please choose another.", "answer.taken") from None


def news(message: Message) -> str:
    """What the message says beside a time, as the page's heading."""
    return message.subject if message.kind in CHANGES else ""


@never_cache
@require_GET
def visit_calendar(request: HttpRequest, token: str) -> HttpResponse:
    """A promised visit for the customer's own calendar."""
    try:
        appointment = links.opened(token).appointment
    except AquiferError as error:
        return HttpResponse(error.message, status=error.status, content_type="text/plain")
    if appointment is None or appointment.standing != AppointmentStatus.PROMISED:
        return HttpResponse("There is no promised visit to this link.", status=404, content_type="text/plain")
    text = calendar.of_customer(appointment, Company.current().name, write.prepare(appointment))
    answered = HttpResponse(text, content_type="text/calendar; charset=utf-8")
    answered["Content-Disposition"] = 'attachment; filename="visit.ics"'
    return answered


@never_cache
@require_GET
def technician_calendar(request: HttpRequest, key: str) -> HttpResponse:
    """A technician's rounds as a calendar to subscribe to; whoever has the address can read it."""
    text = calendar.of_member(key, timezone.localdate())
    if text is None:
        return HttpResponse("There is no such calendar.", status=404, content_type="text/plain")
    answered = HttpResponse(text, content_type="text/calendar; charset=utf-8")
    answered["Content-Disposition"] = 'inline; filename="rounds.ics"'
    return answered
