"""What goes through a heater, and what it is like where nobody wrote it down."""

from dataclasses import dataclass, field

from aquifer.core.vocabulary import Business


@dataclass(frozen=True)
class WaterParameters:
    """What is not measured of a water, and how far off each figure may be. Assumptions but where a source is named."""

    total_hardness_mg_l: float = 150.0
    """When nobody has tested: between the trade's 'moderate' and 'very hard'."""
    calcium_share: float = 0.70
    calcium_share_sd: float = 0.10
    hardness_log_sd: float = 0.50
    """When nobody has tested."""
    alkalinity_log_sd: float = 0.30
    ph_sd: float = 0.25
    source_temperature_c: float = 15.0
    source_temperature_sd: float = 5.0
    suspended_solids_mg_l: float = 0.5
    """Of a supply main."""
    well_solids_mg_l: float = 2.0
    """Of a well without a filter."""
    well_iron_mg_l: float = 0.3
    """Of a well that nobody tested: the usual limit of taste."""
    solids_log_sd: float = 0.70
    test_log_sd: float = 0.05
    """Of hardness and alkalinity by drops or in a laboratory."""
    softener_leak: float = 0.05
    """Share of the hard water's deposit that comes past a softener: bypassed, out of salt, worn out. Assumption."""
    softener_log_sd: float = 1.2
    """Standard deviation of that share, natural log: most let nothing through, and some everything. Assumption."""
    strip_log_sd: float = 0.15
    """By a strip, whose fields are steps."""
    ph_test_sd: float = 0.10
    age_log_sd_per_year: float = 0.02
    """A test ages: supplies drift."""


@dataclass(frozen=True)
class UsageParameters:
    litres_per_person_day: float = 55.0
    """Hot water a person a day. Assumption, three people being the reference heater's 165 L a day."""
    litres_per_day: float = 165.0
    """When nothing is known. Assumption."""
    litres_per_fixture_day: float = 35.0
    """Hot water a day by a shower, bath, basin or sink in a household. Assumption."""
    business_litres_per_day: dict[Business, float] = field(
        default_factory=lambda: {
            Business.OFFICE: 120.0,
            Business.SHOP: 100.0,
            Business.SALON: 600.0,
            Business.RESTAURANT: 1500.0,
            Business.BAKERY: 800.0,
            Business.SCHOOL: 1200.0,
            Business.CLINIC: 500.0,
            Business.LODGING: 2500.0,
            Business.CARE_HOME: 3500.0,
            Business.LAUNDRY: 3000.0,
            Business.CAMPING: 1800.0,
        }
    )
    """Whole site of a usual size. Assumption."""
    recovery_efficiency: float = 0.80
    """Share of a gas burner's input that heats the water; 0.98 for elements. Handbook."""
    metered_spread: float = 0.15
    """Standard deviation of metered use, natural log: meters are read seldom. Assumption."""
    recovery_spread: float = 0.25
    """The same from burner hours. Assumption."""
    fixtures_spread: float = 0.38
    """The same from a count of fixtures. Assumption."""
    people_spread: float = 0.30
    """The same from people. Assumption."""
    business_spread: float = 0.50
    """The same from the kind of business alone. Assumption."""
    unknown_spread: float = 0.45
    """When nothing is known: most sites are households. Assumption."""
    vacancy_spread: float = 0.20
    """Added in quadrature where a site stands empty part of the year. Assumption."""


@dataclass(frozen=True)
class GeometryParameters:
    """A tank of the reference size, from which others are scaled by their capacity. Geometry."""

    capacity_l: float = 189.0
    floor_m2: float = 0.159043128
    """Circle of 0.45 m."""
    wetted_m2: float = 1.9
    radius_m: float = 0.225
    rod_length_m: float = 1.0
    rod_diameter_m: float = 0.0204
    """A rod of 0.80 in. Handbook."""
    setpoint_c: float = 55.0
    """When nobody has read the dial. Assumption, between 49 and 60."""
    age_years: float = 6.0
    """When nobody knows. Assumption: half of a tank's median life."""
    expansion_tank_l: float = 8.0
    """Size of an expansion tank that nobody wrote down: the smallest usual one. Trade practice."""


WATER = WaterParameters()
USAGE = UsageParameters()
GEOMETRY = GeometryParameters()
