"""How far heaters, supplies and people differ, and how findings age."""

from dataclasses import dataclass


@dataclass(frozen=True)
class LearningParameters:
    zone_spread: float = 0.35
    """Standard deviation of a zone's log rate when its water is fully known. Fitted in simulation."""
    most_water_spread: float = 1.00
    """What an untested water can add to it at most. Assumption: knowing only the hardness adds 0.6 to 0.7."""
    heater_spread: float = 0.80
    """Standard deviation of a heater's log rate within its zone. Fitted in simulation."""
    future_spread: float = 0.30
    """Spread of the coming rate about the past one, natural log. Fitted in simulation."""
    wander: float = 0.10
    """By how much a deposit's mean rate until a year from now wanders off, natural log, and by that squared in each
    more: one household in twelve moves a year, what a home's next draws differs from the last by 0.45 and the root of
    two, and a third of its square is in the mean. Assumption."""
    wander_years: float = 10.0
    """Until when it does: then hardly any household is the same. Assumption."""
    fade_per_year: float = 0.80
    """A finding's weight after a year: households change. Fitted in simulation."""
    household_weight: float = 0.2
    """What a finding made under an earlier household is still worth: the water is the same, the use is not.
    Assumption."""
    slip: float = 0.02
    """Share of readings that are slips of the pen, even over the grid. Assumption."""
    false_nothing: float = 0.002
    """Share of slips among readings of nothing at all: few slips end there. Assumption."""
    farthest_trait: float = 1.5
    """How far a trait may lie from a plain heater's, natural log, to tell more than one less far: hardly any heater
    taught what lies beyond. Assumption."""
    cohort_spread: float = 0.25
    """Standard deviation of the log rate between builds of heaters. Assumption."""
    grader_spread: float = 0.35
    """Standard deviation of what graders see, natural log, about their common eye. Assumption."""
    eye_drift: float = 0.25
    """Standard deviation of how a person sees of late about how the same person saw on average. Assumption."""
    common_eye_spread: float = 0.30
    """Standard deviation of that common eye about the scale of grades. Assumption."""
    softener_prior: float = 0.04
    """Share of sites with a softener nobody recorded. Assumption."""
    unknown_age_spread: float = 0.40
    """Added in quadrature when the installation date is unknown, or estimated and nobody says how well. Assumption."""
    unknown_flushes_spread: float = 0.50
    """The same when nobody knows whether a tank was ever flushed: a bed of six years or of one. Assumption."""
    dated_by_year_spread: float = 0.20
    """The same when its last flush is known by the year only. Assumption: half a year of two or three."""


LEARNING = LearningParameters()
