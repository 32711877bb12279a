"""The water supplier of the invented district."""

import datetime
import hashlib
from collections.abc import Iterable
from dataclasses import dataclass, field

from aquifer.demo.district import ZONES
from aquifer.water.supplier import Published


@dataclass(frozen=True)
class SimulatedSupplier:
    """Publishes each quarter what it knows of its supplies: their own figures, a few per cent about."""

    supplies: dict[str, Published] = field(default_factory=lambda: _of_the_district())

    def published(self, zone_code: str, since: datetime.date, until: datetime.date) -> Iterable[Published]:
        typical = self.supplies.get(zone_code)
        if typical is None:
            return
        for year in range(since.year, until.year + 1):
            for month in (1, 4, 7, 10):
                on = datetime.date(year, month, 15)
                if since < on <= until:
                    yield _about(typical, on, zone_code)


def _about(typical: Published, on: datetime.date, code: str) -> Published:
    """The same figures, moved together by up to four per cent; the same day gives the same figures."""
    draw = int.from_bytes(hashlib.sha256(f"{code}{on}".encode()).digest()[:4], "big") / 2**32
    swing = 1 + 0.08 * (draw - 0.5)

    def moved(value: float | None) -> float | None:
        return None if value is None else round(value * swing, 1)

    return Published(
        on,
        moved(typical.total_hardness_mg_l),
        moved(typical.calcium_hardness_mg_l),
        moved(typical.alkalinity_mg_l),
        typical.ph,
        moved(typical.conductivity_us_cm),
        typical.free_chlorine_mg_l,
        typical.disinfectant,
    )


def _of_the_district() -> dict[str, Published]:
    return {
        zone.code: Published(
            datetime.date(2000, 1, 1),
            zone.hardness_mg_l,
            zone.hardness_mg_l * zone.calcium_share if zone.ph else None,
            zone.alkalinity_mg_l,
            zone.ph,
            zone.conductivity_us_cm,
            0.5,
            "chlorine",
        )
        for zone in ZONES
        if zone.supply == "mains"
    }
