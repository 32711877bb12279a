"""Two lives by a link, for a customer who does not sign in: what was asked, signed, and nothing of anybody."""

import datetime

from django.core import signing
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET
from pydantic import ValidationError

from aquifer.accounts.pace import Pace
from aquifer.company.models import Company
from aquifer.core.kinds import HeaterKind
from aquifer.errors import AquiferError
from aquifer.outbox.links import public_address
from aquifer.visits.words import units_shown
from aquifer.workbench import exchanger_words, lives, lives_paper
from aquifer.workbench.asked import ExchangerPaperIn, PaperIn, sides_of, tank_of

GOOD_FOR = datetime.timedelta(days=365)
_SALT = "aquifer.workbench.shown"
A_MINUTE = 30
"""Pages that one address may ask for, since each is reckoned anew."""


Paper = PaperIn | ExchangerPaperIn


def address(asked: Paper) -> str:
    """Where the page is; empty where nobody said at which address we are reached."""
    at = public_address()
    return f"{at}/cut-open/{signing.dumps(asked.model_dump(mode='json'), salt=_SALT, compress=True)}" if at else ""


def opened(key: str) -> Paper | None:
    """What a link asks; None where it is not good, or no longer."""
    try:
        told = signing.loads(key, salt=_SALT, max_age=GOOD_FOR)
        kind = HeaterKind(told["kind"])
        return PaperIn.model_validate(told) if kind.is_tank else ExchangerPaperIn.model_validate(told)
    except (signing.BadSignature, ValidationError, KeyError, TypeError, ValueError):
        return None


@never_cache
@require_GET
def page(request: HttpRequest, key: str) -> HttpResponse:
    """The two lives, cut open beside each other."""
    ours, asked = Company.current(), opened(key)
    whose = {"company": ours.name, "phone": ours.phone, "logo": ours.logo}
    if asked is None:
        trouble = "This link is no longer good. Please call us."
        return render(request, "two_lives.html", {**whose, "trouble": trouble}, status=404)
    if not Pace("shown", f"{A_MINUTE}/m").allow_request(request):
        return render(request, "two_lives.html", {**whose, "trouble": "Please try again in a minute."}, status=429)
    try:
        told = _of_tank(asked) if isinstance(asked, PaperIn) else _of_exchanger(asked)
    except AquiferError as error:
        return render(request, "two_lives.html", {**whose, "trouble": error.message}, status=error.status)
    return render(request, "two_lives.html", {**whose, "year": asked.at_year, **told})


def _of_tank(asked: PaperIn) -> dict[str, object]:
    sides, units, price = sides_of(asked), units_shown(), asked.energy_price
    told = lives.told(tank_of(asked), sides, timezone.localdate())
    both = list(zip(told["sides"], sides, strict=True))
    return {
        "water": lives_paper.water_words(told, units),
        "tanks": [lives_paper.cut(told, life, side, asked.at_year, units) for life, side in both],
        "words": [
            lives_paper.words(told, life, side, asked.at_year, price, told["currency"], units) for life, side in both
        ],
        "rows": lives_paper.rows(told, both, price, units),
        "notes": lives_paper.NOTES,
    }


def _of_exchanger(asked: ExchangerPaperIn) -> dict[str, object]:
    sides, units, price = sides_of(asked), units_shown(), asked.energy_price
    told = lives.exchangers(tank_of(asked), sides, timezone.localdate())
    both = list(zip(told["sides"], sides, strict=True))
    return {
        "water": lives_paper.water_words(told, units),
        "passages": [exchanger_words.cut(told, life, side, asked.at_year, units) for life, side in both],
        "words": [exchanger_words.words(told, life, side, asked.at_year, price, units) for life, side in both],
        "rows": exchanger_words.rows(told, both, price, units),
        "notes": exchanger_words.NOTES,
    }
