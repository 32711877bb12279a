"""Rules of judgement that a date alone does not carry: verdict, why, and who may decide."""

from dataclasses import dataclass
from enum import StrEnum

from aquifer.core.parameters import ANODE


class Verdict(StrEnum):
    FLUSH = "flush"
    FLUSH_GENTLY = "flush_gently"
    LEAVE_ALONE = "leave_alone"
    CHANGE_ALLOY = "change_alloy"
    KEEP_ALLOY = "keep_alloy"
    REPLACE_VALVE = "replace_valve"
    KEEP_VALVE = "keep_valve"


@dataclass(frozen=True)
class Judgement:
    rule: str
    verdict: Verdict
    because: tuple[str, ...]
    ask_lead: bool = False


DRAIN_PORT_MM = 50.0
"""Height of the drain port's lip where nobody measured it. Assumption."""
GENTLE_AGE_SHARE = 0.5
"""From this share of the cut-off age a first flush is done gently, in short openings. Assumption."""


def flush_or_leave(
    age_years: float, was_flushed: bool, cutoff_years: float, depth_mm: float, drain_port_mm: float
) -> Judgement:
    """Whether to flush a tank at all.

    Parameters: age in years; whether a flush is on record; the company's cut-off in years; believed depth and height of
    the drain port, mm. Returns: the verdict with its reasons.
    Source: trade practice. An old tank that was never flushed is left alone, since disturbed deposit may be what keeps
    a flaw sealed; the cut-off age is in dispute (3 to 10 years) and a setting. Others always flush and let only a
    blocked drain stop them.
    """
    rule = "flush_or_leave"
    if not was_flushed and age_years >= cutoff_years:
        why = f"{age_years:.0f} years old and no flush on record; the company leaves such tanks from {cutoff_years:g}"
        return Judgement(rule, Verdict.LEAVE_ALONE, (why, "disturbed deposit may be what seals a flaw"), ask_lead=True)
    if depth_mm >= drain_port_mm:
        why = f"about {depth_mm:.0f} mm of deposit stands above the drain port at {drain_port_mm:.0f} mm"
        return Judgement(rule, Verdict.FLUSH_GENTLY, (why, "expect the drain to block: open it in short steps"), True)
    if not was_flushed and age_years >= GENTLE_AGE_SHARE * cutoff_years:
        return Judgement(rule, Verdict.FLUSH_GENTLY, (f"first flush after {age_years:.0f} years",))
    return Judgement(rule, Verdict.FLUSH, ("sound, and flushed before or still new",))


def rod_alloy(protection_ratio: float) -> Judgement:
    """Whether a rod's alloy suits the water. Parameters: share of the wanted current that flows.
    Source: Ohm's law in ``anode``; the threshold is an assumption."""
    if protection_ratio < ANODE.weak_protection:
        why = f"only {protection_ratio:.0%} of the wanted current flows: the rod lasts because it hardly protects"
        return Judgement("rod_alloy", Verdict.CHANGE_ALLOY, (why, "magnesium or a powered anode suits this water"))
    return Judgement("rod_alloy", Verdict.KEEP_ALLOY, (f"{protection_ratio:.0%} of the wanted current flows",))


def keep_valve(age_years: float, replace_at_years: float, last_outcome: str | None) -> Judgement:
    """Whether the relief valve stays. Parameters: its age and replacement age, years; what its last trial showed.
    Source: trade practice; a valve that passes no water or does not reseat is replaced, never argued with."""
    rule = "keep_valve"
    if last_outcome in ("no_flow", "flows_and_weeps"):
        said = "passed no water" if last_outcome == "no_flow" else "did not reseat"
        return Judgement(rule, Verdict.REPLACE_VALVE, (f"it {said} when last exercised", "work for a licensed person"))
    if age_years >= replace_at_years:
        why = f"{age_years:.0f} years old; replaced at {replace_at_years:g} on this water"
        return Judgement(rule, Verdict.REPLACE_VALVE, (why, "carry a spare: exercising an old valve may start a drip"))
    return Judgement(rule, Verdict.KEEP_VALVE, ("ran when last exercised, or is new",))
