"""Two lives of a tankless heater as an owner reads them."""

from aquifer.core.bench.lives import CareName
from aquifer.core.units import Quantity, Unit, figure, worded
from aquifer.workbench.lives import Side
from aquifer.workbench.lives_paper import years_words
from aquifer.workbench.schemas import ExchangerLifeOut, ExchangerLivesOut

CARES = {
    CareName.NEVER: "nothing is done",
    CareName.RODS_ONLY: "it is never descaled",
    CareName.BY_RISK: "it is descaled when it is due",
    CareName.YEARLY: "it is descaled every year",
    CareName.HALF_YEARLY: "it is descaled every half year",
    CareName.LONG_SERVICE: "it is descaled in the fifth year, and so on",
}
NOTES = (
    "Reckoned for a new heater on this water, with ordinary luck. It shows what care changes, not what becomes of a "
    "certain heater. Costs are our prices today.",
    "Whatever you choose: a heater that smells of gas or sets off a carbon monoxide alarm is shut off and called about "
    "at once.",
)
_YEARS = (5, 10, 15, 20)
_PER_YEAR = 4


def care_words(side: Side) -> str:
    """How it is kept, as the page begins a sentence."""
    return f"If {CARES[side.care]}{' with softened water' if side.softened else ''}"


def cut(
    told: ExchangerLivesOut, life: ExchangerLifeOut, side: Side, at_year: int, units: dict[Quantity, Unit]
) -> dict[str, str | float]:
    """A passage cut across, for a drawing in which it is 90 wide: how wide it still is, and the words."""
    thick = life["thickness_mm"][at_year * _PER_YEAR]
    return {
        "care": care_words(side),
        "open": round(45 * max(0.0, 1 - thick / told["passage_mm"]), 1),
        "scale": _thin(thick, units[Quantity.LENGTH]),
        "holds": "cuts out at full draw" if thick >= told["limit_mm"] else "holds at full draw",
    }


def _thin(thickness_mm: float, unit: Unit) -> str:
    """Scale is thin: a tenth of what is usually told counts."""
    return f"{unit.shown(thickness_mm):.{unit.decimals + 1}f} {unit.label}"


def words(
    told: ExchangerLivesOut, life: ExchangerLifeOut, side: Side, at_year: int, price: float | None,
    units: dict[Quantity, Unit],
) -> str:  # fmt: skip
    """What a life comes to."""
    at = at_year * _PER_YEAR
    flow = worded(figure(Quantity.FLOW, life["flow_l_min"][at]), units)
    energy = f"{life['energy_kwh'][at]:,.0f} kWh a year"
    if price is not None:
        energy += f", {told['currency']}{price * life['energy_kwh'][at]:,.0f} at what you pay"
    return (
        f"{care_words(side)}, after {years_words(at_year)} it gives {flow} of hot water at full draw "
        f"and takes {energy}; "
        f"{100 * life['cuts_out_share'][at]:.0f} of a hundred such heaters cut out then when much is drawn."
    )


def rows(
    told: ExchangerLivesOut,
    lives: list[tuple[ExchangerLifeOut, Side]],
    price: float | None,
    units: dict[Quantity, Unit],
) -> list[list[str]]:
    """The table under it: what each life comes to after some years."""
    places = [year * _PER_YEAR for year in _YEARS]
    lines = [["after", *(f"{year} years" for year in _YEARS)]]
    for life, side in lives:
        lines.append([care_words(side), *[""] * len(_YEARS)])
        lines.append(
            ["hot at full draw", *(worded(figure(Quantity.FLOW, life["flow_l_min"][at]), units) for at in places)]
        )
        lines.append(["cut out, of a hundred", *(f"{100 * life['cuts_out_share'][at]:.0f}" for at in places)])
        lines.append(["energy a year", *(f"{life['energy_kwh'][at]:,.0f} kWh" for at in places)])
        lines.append(["visits since it is new", *(f"{life['visits_cost'][at]:,.0f}" for at in places)])
        if price is not None:
            spent = [price / _PER_YEAR * sum(life["energy_kwh"][:at]) for at in places]
            lines.append(["energy since it is new", *(f"{one:,.0f}" for one in spent)])
    return lines
