"""The table of features: in which conditions each is found, how bad that is and what to do. Severities and advice are
trade practice (assumption: notes on equipment, defects and hazards), below local codes."""

from aquifer.core.kinds import having
from aquifer.core.place.feature import (
    BURNS_GAS,
    MAINS_POWERED,
    MAKES_CONDENSATE,
    TANKS,
    Condition,
    Feature,
    FeatureGroup,
    FeatureKind,
    Severity,
)


def _sound(words: str = "sound") -> Condition:
    return Condition("sound", words)


_NOTE, _DEFECT, _DANGER = Severity.NOTE, Severity.DEFECT, Severity.DANGER
_WATER_VALVE = (
    _sound("closes tight"),
    Condition("stiff", "stiff", _NOTE, "turn it by hand only, back a little and on"),
    Condition("weeps", "weeps at its spindle", _DEFECT, "nip the gland after use, renew it soon"),
    Condition("passes", "does not close tight", _DEFECT, "work against the next valve up; renew it"),
    Condition("spins", "spins without closing", _DANGER, "shut the next valve up; renew it before the tank is opened"),
    Condition("brittle", "brittle, may snap", _DANGER, "leave it alone, shut the next valve up"),
    Condition("buried", "not reachable", _DEFECT, "free it, or fit one that can be reached"),
    Condition("missing", "there is none", _DEFECT, "fit one"),
)
_GAS_VALVE = (
    _sound("closes tight"),
    Condition("stiff", "stiff", _DEFECT, "licensed work: renew it"),
    Condition("leaks", "leaks gas", _DANGER, "out, air the place, call from outside; licensed work"),
    Condition("missing", "there is none at the heater", _DANGER, "shut at the meter; licensed work: fit one"),
)

FEATURES = (
    Feature(
        FeatureKind.HEATER_SHUT_OFF,
        FeatureGroup.SHUT_OFF,
        "heater's cold shut-off",
        _WATER_VALVE,
        ("ball", "gate", "stop", "plastic"),
    ),
    Feature(
        FeatureKind.HOUSE_SHUT_OFF,
        FeatureGroup.SHUT_OFF,
        "house shut-off",
        _WATER_VALVE,
        ("ball", "gate", "stop", "plastic"),
        of_site=True,
    ),
    Feature(
        FeatureKind.METER_VALVE,
        FeatureGroup.SHUT_OFF,
        "valve at the meter",
        _WATER_VALVE,
        ("ball", "gate", "key"),
        of_site=True,
    ),
    Feature(
        FeatureKind.HOT_OUTLET_VALVE,
        FeatureGroup.SHUT_OFF,
        "hot outlet valve",
        (*_WATER_VALVE[:-1], Condition("missing", "there is none")),
        ("ball", "gate"),
    ),
    Feature(FeatureKind.GAS_SHUT_OFF, FeatureGroup.SHUT_OFF, "gas shut-off", _GAS_VALVE, ("ball", "plug"), BURNS_GAS),
    Feature(
        FeatureKind.BREAKER,
        FeatureGroup.SHUT_OFF,
        "breaker or switch",
        (
            _sound("labelled, proven"),
            Condition("unlabelled", "not labelled", _NOTE, "prove dead at the terminals, then label it"),
            Condition("not_found", "not found", _DEFECT, "open nothing electric until it is found"),
            Condition("scorched", "scorched", _DANGER, "leave it off; licensed electrical work"),
        ),
        ("breaker", "rocker switch", "plug"),
        MAINS_POWERED,
    ),
    Feature(
        FeatureKind.BOILER_SWITCH,
        FeatureGroup.SHUT_OFF,
        "boiler switch",
        (
            _sound("known"),
            Condition("two", "two of them: put both off", _NOTE, "put both off"),
            Condition("not_found", "not found", _DEFECT, "do not drain until the boiler is off"),
        ),
        (),
        having("has_coil"),
    ),
    Feature(
        FeatureKind.REGULATOR,
        FeatureGroup.WATER,
        "pressure regulator",
        (
            _sound("holds its pressure"),
            Condition("creeps", "lets the pressure creep", _DEFECT, "renew it"),
            Condition("missing", "there is none"),
        ),
        of_site=True,
    ),
    Feature(
        FeatureKind.TEMPERING_VALVE,
        FeatureGroup.WATER,
        "tempering valve",
        (
            _sound("mixes to its setting"),
            Condition("gritty", "sticks with grit", _DEFECT, "clean it after every flush"),
            Condition("failed", "lets hot water through unmixed", _DANGER, "set the heater cooler until it is renewed"),
            Condition("missing", "there is none"),
        ),
    ),
    Feature(
        FeatureKind.RECIRCULATION_PUMP,
        FeatureGroup.WATER,
        "recirculation pump",
        (
            _sound("works"),
            Condition("uncontrolled", "runs without control", _DEFECT, "ruins a mixing valve: fit a timer or a sensor"),
            Condition("failed", "stands still", _NOTE),
            Condition("removed", "removed"),
        ),
        ("timer", "sensor", "button", "always on"),
        of_site=True,
    ),
    Feature(
        FeatureKind.CONNECTORS,
        FeatureGroup.WATER,
        "connectors",
        (
            _sound(),
            Condition("corroded", "corroded", _DEFECT, "don't wrench on them; renew them at the next drain"),
            Condition("leaking", "leaking", _DEFECT, "renew them"),
            Condition("brittle", "brittle", _DANGER, "don't bend them; may snap"),
        ),
        ("copper", "galvanised", "plastic", "stainless flexible"),
    ),
    Feature(
        FeatureKind.DIELECTRIC_UNIONS,
        FeatureGroup.WATER,
        "dielectric unions",
        (
            _sound(),
            Condition("corroded", "corroded", _DEFECT, "renew them"),
            Condition("missing", "missing between unlike metals", _DEFECT, "fit them"),
        ),
        of=TANKS,
    ),
    Feature(
        FeatureKind.PIPE_INSULATION,
        FeatureGroup.WATER,
        "pipe insulation",
        (
            _sound("whole"),
            Condition("missing", "missing", _NOTE),
            Condition("hides_valve", "hides a valve", _NOTE, "feel for the valve beneath it"),
        ),
    ),
    Feature(
        FeatureKind.SOFTENER,
        FeatureGroup.WATER,
        "softener",
        (
            _sound("regenerates, salt in it"),
            Condition("missing", "there is none"),
            Condition("out_of_salt", "out of salt", _DEFECT, "fill it; until then the water is as hard as the main's"),
            Condition("bypassed", "bypassed", _DEFECT, "ask why; the water is as hard as the main's"),
            Condition("too_soft", "leaves no hardness at all", _NOTE, "blend a little back: it eats rods faster"),
        ),
        ("ion exchange", "scale inhibitor"),
        of_site=True,
    ),
    Feature(
        FeatureKind.WELL,
        FeatureGroup.WATER,
        "well of its own",
        (
            _sound("clear"),
            Condition("missing", "there is none"),
            Condition("sandy", "draws sand", _DEFECT, "a spin-down filter before the heater; look at the tank sooner"),
            Condition("rusty", "rusty after standing", _NOTE, "test for iron"),
            Condition("smells", "smells of eggs when hot", _NOTE, "ask before changing the rod's alloy"),
        ),
        ("drilled", "dug"),
        of_site=True,
    ),
    Feature(
        FeatureKind.INLET_FILTER,
        FeatureGroup.WATER,
        "inlet filter",
        (_sound("clean"), Condition("clogged", "clogged", _DEFECT, "renew it"), Condition("missing", "there is none")),
        of_site=True,
    ),
    Feature(
        FeatureKind.TANK_DRAIN,
        FeatureGroup.DRAIN,
        "tank drain",
        (
            _sound("opens and closes"),
            Condition("drips", "drips when closed", _NOTE, "reopen and close it firmly, then a hose cap"),
            Condition("blocked", "blocked", _DEFECT, "probe it, or change it for a full-bore valve"),
            Condition("brittle", "brittle, may snap", _DANGER, "don't force it: vacuum-held change with rags ready"),
        ),
        ("brass", "plastic", "full-bore ball", "plug"),
        TANKS,
    ),
    Feature(
        FeatureKind.DRAIN_ROUTE,
        FeatureGroup.DRAIN,
        "drain route",
        (
            _sound("falls all the way"),
            Condition("rises", "rises on the way", _NOTE, "bring a pump, or flush under pressure"),
            Condition("long", "long, its end out of sight", _NOTE, "someone has to watch its end"),
            Condition("none", "nowhere to drain to", _DEFECT, "bring a container"),
        ),
        ("floor drain", "sump", "laundry tub", "shower", "toilet", "garden", "driveway"),
    ),
    Feature(
        FeatureKind.DRAIN_PAN,
        FeatureGroup.DRAIN,
        "drain pan",
        (
            _sound("dry, piped away"),
            Condition("wet", "wet", _DEFECT, "find where it comes from before judging the tank"),
            Condition("unpiped", "not piped away", _DEFECT, "pipe it to a drain"),
            Condition("missing", "missing", _NOTE),
        ),
        of=TANKS,
    ),
    Feature(
        FeatureKind.DISCHARGE_PIPE,
        FeatureGroup.DRAIN,
        "relief discharge pipe",
        (
            _sound("falls, ends in the open near the floor"),
            Condition("ends_indoors", "ends indoors", _DANGER, "bucket under it before the lever is lifted"),
            Condition("hidden", "its end was not found", _DANGER, "don't lift the lever until it is found"),
            Condition("rises", "runs uphill or has a valve", _DANGER, "don't exercise the valve; licensed work"),
            Condition("capped", "capped or blocked", _DANGER, "the tank has no relief: shut it down; licensed work"),
            Condition("missing", "missing", _DANGER, "stand clear of the outlet: it scalds; fit one"),
            Condition("threaded", "threaded at its end", _DEFECT, "cut the thread off, so that nobody caps it"),
        ),
        ("copper", "plastic", "galvanised"),
    ),
    Feature(
        FeatureKind.CONDENSATE_LINE,
        FeatureGroup.DRAIN,
        "condensate line",
        (
            _sound("runs to a drain"),
            Condition("bucket", "ends in a bucket", _DEFECT, "finish it: pipe it to a drain"),
            Condition("blocked", "blocked", _DEFECT, "clear it, with the power off"),
        ),
        of=MAKES_CONDENSATE,
    ),
    Feature(
        FeatureKind.GAS_CONNECTOR,
        FeatureGroup.FLAME,
        "gas connector",
        (
            _sound("sound, bubble-tested"),
            Condition("old", "older than its makers allow", _DEFECT, "licensed work: renew it"),
            Condition("strained", "kinked or under strain", _DANGER, "don't move the heater; licensed work"),
        ),
        ("flexible", "rigid"),
        BURNS_GAS,
    ),
    Feature(
        FeatureKind.DRIP_LEG,
        FeatureGroup.FLAME,
        "gas drip leg",
        (_sound("fitted"), Condition("missing", "missing", _DEFECT, "licensed work: fit one")),
        of=BURNS_GAS,
    ),
    Feature(
        FeatureKind.VENT,
        FeatureGroup.FLAME,
        "vent",
        (
            _sound("rises, tight, draws"),
            Condition("no_drain", "without a condensate drain", _DEFECT, "fit one"),
            Condition("falls", "slopes the wrong way", _DANGER, "carbon monoxide: shut it down; licensed work"),
            Condition("rusted", "rusted through or loose", _DANGER, "carbon monoxide: shut it down; licensed work"),
            Condition("spills", "spills into the room", _DANGER, "carbon monoxide: air the room, shut it down"),
        ),
        ("natural draught", "powered", "balanced", "none"),
        BURNS_GAS,
    ),
    Feature(
        FeatureKind.COMBUSTION_AIR,
        FeatureGroup.FLAME,
        "combustion air",
        (
            _sound("enough"),
            Condition("dusty", "dusty or linty", _DEFECT, "clean the intake at every visit"),
            Condition("starved", "closed off", _DANGER, "carbon monoxide: open it before the burner is lit"),
        ),
        ("louvres", "gap under the door", "outside duct", "open room"),
        BURNS_GAS,
    ),
    Feature(
        FeatureKind.CO_ALARM,
        FeatureGroup.FLAME,
        "carbon-monoxide alarm",
        (
            _sound("works"),
            Condition("old", "past its date", _DEFECT, "renew it"),
            Condition("dead", "silent when tested", _DANGER, "bring a meter; leave one that works"),
            Condition("missing", "there is none", _DANGER, "bring a meter; leave one that works"),
        ),
        of=BURNS_GAS,
        of_site=True,
    ),
    Feature(
        FeatureKind.COMBUSTIBLES,
        FeatureGroup.FLAME,
        "things that burn beside it",
        (_sound("none"), Condition("near", "stand beside the flame", _DANGER, "clear them away before it is lit")),
        of=BURNS_GAS,
    ),
    Feature(
        FeatureKind.WIRING,
        FeatureGroup.ELECTRIC,
        "wiring",
        (
            _sound("earthed, with drip loops"),
            Condition("no_loop", "without drip loops", _NOTE, "water runs along it: shape them"),
            Condition("exposed", "exposed at the cover", _DANGER, "breaker off and proven; licensed electrical work"),
            Condition("no_earth", "without an earth", _DANGER, "breaker off and proven; licensed electrical work"),
            Condition("scorched", "scorched, perhaps taped over", _DANGER, "leave it off; licensed electrical work"),
        ),
        of=MAINS_POWERED,
    ),
    Feature(
        FeatureKind.STRAPS,
        FeatureGroup.SURROUNDINGS,
        "earthquake straps",
        (
            _sound("upper and lower third"),
            Condition("one", "only one", _DEFECT, "fit the second where they are required"),
            Condition("none", "none though required", _DEFECT, "fit them"),
            Condition("not_required", "not required here"),
        ),
        of=TANKS,
    ),
    Feature(
        FeatureKind.ACCESS,
        FeatureGroup.SURROUNDINGS,
        "access",
        (
            _sound("free"),
            Condition("ladder", "by ladder", _NOTE, "two people for anything heavy"),
            Condition("cramped", "cramped", _NOTE, "anodes need head room: bring a segmented one"),
            Condition("hatch", "through a hatch that can fall", _DANGER, "prop the hatch before going through"),
            Condition("blocked", "blocked with goods", _NOTE, "ask for it to be cleared"),
        ),
    ),
    Feature(
        FeatureKind.EXPOSURE,
        FeatureGroup.SURROUNDINGS,
        "exposure",
        (
            _sound("indoors, dry"),
            Condition("wind", "in the wind", _NOTE, "its pilot is blown out"),
            Condition("frost", "freezes in winter", _DEFECT, "not left drained-down with water in it; lag it"),
            Condition("dust", "in dust or lint", _DEFECT, "clean the intake at every visit"),
        ),
    ),
    Feature(
        FeatureKind.PEOPLE_AT_RISK,
        FeatureGroup.SURROUNDINGS,
        "people at risk",
        (
            _sound("nobody in particular"),
            Condition("children", "small children", _DANGER, "keep the hose end watched"),
            Condition("frail", "frail people", _DANGER, "hot water at the faucet no hotter than agreed"),
        ),
        of_site=True,
    ),
    Feature(
        FeatureKind.LEAK_PATH,
        FeatureGroup.SURROUNDINGS,
        "way of a leak",
        (
            _sound("to a drain or outdoors"),
            Condition("floor", "over a bare floor", _NOTE, "nothing of worth is left standing there"),
            Condition(
                "rooms", "into finished rooms", _NOTE, "offer a pan piped to a drain, or a valve that shuts on a leak"
            ),
            Condition(
                "below", "into rooms below", _NOTE, "offer a pan piped to a drain, or a valve that shuts on a leak"
            ),
        ),
        of=TANKS,
    ),
)
BY_KIND = {feature.kind: feature for feature in FEATURES}
