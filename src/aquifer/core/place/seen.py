"""What was seen at a place, and what is said of it first."""

from dataclasses import dataclass

from aquifer.core.kinds import HeaterKind
from aquifer.core.place.feature import Feature, FeatureKind, Severity
from aquifer.core.place.features import BY_KIND, FEATURES


@dataclass(frozen=True)
class Seen:
    """A feature as somebody saw it."""

    kind: FeatureKind
    condition: str
    form: str = ""
    where: str = ""
    do_not_operate: bool = False
    use_instead: str = ""
    about: str = ""
    """Which heater, where a site has several."""


def matters_to(kind: HeaterKind) -> list[Feature]:
    """Features of a place that matter to a heater of this kind, in the order in which they are looked at."""
    return [feature for feature in FEATURES if kind in feature.of]


def fault(seen: Seen) -> tuple[Severity, str] | None:
    """How bad what was seen is, and a sentence that says it with what to do; None if nothing is wrong with it.

    A valve not to be operated is a danger in any condition. Raises: ValueError for a condition that it cannot have.
    """
    feature = BY_KIND[seen.kind]
    condition = feature.condition(seen.condition)
    told = ", ".join(word for word in (seen.form if feature.is_valve else "", seen.where, seen.about) if word)
    named = f"{feature.name} ({told})" if told else feature.name
    if seen.do_not_operate:
        because = f": {condition.words}" if condition.severity else ""
        instead = seen.use_instead or "the next valve up"
        return Severity.DANGER, f"Don't touch the {named}{because}. Use {instead} instead."
    if condition.severity is None:
        return None
    advice = f"; {condition.advice}" if condition.advice else ""
    return condition.severity, f"{named[:1].upper()}{named[1:]}: {condition.words}{advice}."


def hazards(seen: list[Seen]) -> list[str]:
    """What is said first wherever a place appears: valves not to touch, then the other dangers."""
    found = [(not one.do_not_operate, *told) for one in seen if (told := fault(one)) is not None]
    return [sentence for _, severity, sentence in sorted(found, key=lambda f: f[0]) if severity is Severity.DANGER]
