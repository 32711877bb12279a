"""Water in layers, from the floor up: each [kg, degC]. What is warmer than what lies over it rises."""

from itertools import pairwise

HEAT_KJ_KG_K = 4.186
"""Of water at 15 degC. Handbook."""
SAME_K, LAYERS = 0.02, 40
"""Layers that differ less are one; no more are kept than so many, the likest made one. Numerical."""


def specific_l_kg(celsius: float) -> float:
    """Litres that a kilogram of water takes. Source: McCutcheon, Martin and Barnwell, the usual fit to fresh water."""
    density = 1000 * (
        1 - (celsius + 288.9414) / (508929.2 * (celsius + 68.12963)) * (celsius - 3.9863) * (celsius - 3.9863)
    )
    return 1000.0 / density


def mass_kg(layers: list[list[float]]) -> float:
    """What they weigh."""
    return sum(kg for kg, _ in layers)


def litres_of(layers: list[list[float]]) -> float:
    """The room they take, L."""
    return sum(kg * specific_l_kg(celsius) for kg, celsius in layers)


def celsius_at(layers: list[list[float]], litres: float) -> float | None:
    """Temperature where so many litres lie below; None over the water."""
    up = 0.0
    for kg, celsius in layers:
        up += kg * specific_l_kg(celsius)
        if up >= litres:
            return celsius
    return None


def warmed(layers: list[list[float]], litres: float, kj: float) -> None:
    """Heat goes into the layer at which so many litres lie below."""
    up = 0.0
    for layer in layers:
        up += layer[0] * specific_l_kg(layer[1])
        if up >= litres:
            layer[1] += kj / (layer[0] * HEAT_KJ_KG_K)
            return


def rise(layers: list[list[float]]) -> None:
    """What is warmer than the layer over it rises into it; of too many the likest become one."""
    place = 0
    while place < len(layers) - 1:
        if layers[place][1] > layers[place + 1][1] - SAME_K:
            _mix(layers, place)
            place = max(place - 1, 0)
        else:
            place += 1
    if len(layers) > LAYERS:
        steps = [above[1] - below[1] for below, above in pairwise(layers)]
        _mix(layers, steps.index(min(steps)))


def _mix(layers: list[list[float]], place: int) -> None:
    (kg, celsius), (more, other) = layers[place : place + 2]
    layers[place : place + 2] = [[kg + more, (kg * celsius + more * other) / (kg + more)]]


def taken_kj(layers: list[list[float]], end: int, kg: float) -> float:
    """Take water from the floor (0) or the top (-1). Returns: what it carried over 0 degC, kJ."""
    carried = 0.0
    while kg > 1e-12 and layers:
        layer = layers[end]
        part = min(kg, layer[0])
        carried += part * layer[1] * HEAT_KJ_KG_K
        kg -= part
        if part >= layer[0] - 1e-12:
            layers.pop(end)
        else:
            layer[0] -= part
    return carried
