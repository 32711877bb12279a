from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema

from aquifer.accounts.access import Action, allowed
from aquifer.core.parameters import SEDIMENT
from aquifer.core.water import hardness_class, plain_words
from aquifer.water.profiles import zone_waters

router = Router(tags=["water"])


class ZoneOut(Schema):
    id: int
    name: str
    code: str
    tests: int
    hardness_mg_l: float
    hardness_class: str
    carbonate_is_known: bool
    saturation_index_60: float
    potential_60_mg_l: float
    in_words: str


@router.get("/zones", response=list[ZoneOut], auth=allowed(Action.READ))
def zones(request: HttpRequest) -> list[dict[str, object]]:
    """Every zone with what its water does at 60 degC."""
    found = []
    for zone in zone_waters(timezone.localdate()):
        hot = zone.profile.heated(SEDIMENT.reference_setpoint_c)
        hardness = zone.profile.analysis.total_hardness_mg_l
        found.append(
            {
                "id": zone.zone_id,
                "name": zone.name,
                "code": zone.code,
                "tests": zone.tests,
                "hardness_mg_l": hardness,
                "hardness_class": hardness_class(hardness),
                "carbonate_is_known": zone.profile.carbonate_is_known,
                "saturation_index_60": round(hot.saturation_index, 2),
                "potential_60_mg_l": round(hot.precipitation_potential_mg_l, 1),
                "in_words": plain_words(zone.profile, SEDIMENT.reference_setpoint_c),
            }
        )
    return found
