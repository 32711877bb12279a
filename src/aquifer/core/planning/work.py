"""What a service takes: licences, equipment, people, and how long it lasts."""

from aquifer.core.kinds import KINDS, HeaterKind
from aquifer.core.vocabulary import Component, Method

ALLOWANCE = 0.92
"""Share of a shift's hours that is planned; the rest is for what nobody foresees. Assumption."""
TWO_PEOPLE = "two people"
"""The ability of a technician with a helper."""
JETTER, PUMP = "jetter", "descaling pump"
INTERVAL_YEARS = {
    Component.SEDIMENT: 2.0,
    Component.SCALE: 1.5,
    Component.ANODE: 3.0,
    Component.RELIEF_VALVE: 1.0,
    Component.EXPANSION_TANK: 1.0,
}
"""How long a service of each usually lasts: what is wasted by coming early is counted against it. Assumption; the two
safety services last as long as their caps."""
JETTED_BY_TWO_FROM_L = 250.0
"""A tank of this size is jetted by two, one at the port and one at the drain. Assumption."""


def licence_of(kind: HeaterKind) -> str:
    """The licence without which nobody opens a heater of this kind: it is shut down and lit or energised again.

    Source: trade practice, gas work by a gas licence, wiring by an electrical one; local rules come first.
    """
    return KINDS[kind].licence


def equipment_of(component: Component, method: Method) -> frozenset[str]:
    """What the truck must carry for a service besides its usual load."""
    if method is Method.JETTING:
        return frozenset({JETTER})
    if component is Component.SCALE or method is Method.ACID_SOAK:
        return frozenset({PUMP})
    return frozenset()


def people_of(method: Method, capacity_l: float | None) -> int:
    """How many people a service takes."""
    return 2 if method is Method.JETTING and (capacity_l or 0.0) >= JETTED_BY_TWO_FROM_L else 1
