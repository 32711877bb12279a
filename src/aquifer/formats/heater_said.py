"""What people write of a heater in a cell of their own list: which kind it is, and which rod it has.

Source of the ways of writing: trade practice, as offices keep such lists.
"""

import contextlib
import datetime
import re
from dataclasses import dataclass

from aquifer.core.kinds import HeaterKind, Vent
from aquifer.core.units import Quantity
from aquifer.core.vocabulary import Alloy
from aquifer.formats.cells import BadCell
from aquifer.formats.day_said import day
from aquifer.formats.said import amount, is_unknown, plainly


@dataclass(frozen=True)
class KindSaid:
    kind: HeaterKind
    vent: str = ""


_AT_ONCE = re.compile(
    r"tankless|\bt'?-?less\b|\b(sans reservoir|sin (tanque|deposito)|senza (serbatoio|accumulo)|sem reservatorio)\b|"
    r"on[- ]demand|tank[- ]less|durchl(?:auf|\.)|\bdle\b|instant|cont(?:inuous|\.)? ?flow|doorstrom|"
    r"chauffe[- ]?bains?\b|de paso|geiser|multi ?point|\d ?gpm\b|cascade|kaskade|whole[- ]house electric|"
    r"\bgas ?therme|\b(combi|kombi|combi ?boiler|kombitherme|istant\w*|esquentador)\b"
)
_GAS = {"ng", "lp", "lpg", "propane", "natural", "nat", "gaz"}
_GLUED_E = re.compile(
    r"(^|\d ?-?)e\b|\be[- ](?:speicher|boiler|standspeicher|wandspeicher|dle\b|durchlauf)|"
    r"\d ?(?:g|gal|gallons?|l|ltr|lit(?:er|re)s?)[. ]+e\b|\be ?-?\d\d\d?\b|kleinsp(?:eicher|\.)|immersion|unterbau|"
    r"\bc\. ?e\.|durchl\w*\.? ?(?:18|21|24|27) ?kw|wandspeicher|wandboiler|\w*(?:boiler|speicher)[ ,-]+e\b|"
    r"zweikreis|2-kreis|\bclose-?in\b|resisten[cz]|heizstab|untertisch|ubertisch|"
    r"\bunvented\b.*\bdirect\b|\bvented\b.*\bimm\b|"
    r"\but-?(?:speicher|gerat|boiler)|"
    r"(?<![\d.,])[1-6](?:[.,]\d)? ?kw\b|"
    r"steatite|blindee?\b|\bcumulus\b"
)
_GLUED_GAS = re.compile(r"^g$|\b(g|ng|lp) ?-?\d\d\d?\b")
_NO_FUEL = {"gasket", "gaskets", "gastado", "gastada"}
_ON_THE_WALL = re.compile(r"^(?!.*\d ?(?:g|gal|gallons?|l|ltr|lit(?:er|re)s?)\b).*\bwall[- ](hung|mount(ed)?)\b")
"""What hangs on a wall and has no size heats as it runs."""
_AT_THE_TAP = re.compile(r"point[- ]of[- ]use|\bpou\b|(under|over)[- ]?sink|\bsous (?:l')?evier\b")
_HEAT_PUMP = {
    "cet", "hp", "ashp", "gshp", "hpwh", "hybrid", "wp", "thermodynamique", "thermodynamic", "thermo", "aerotermia",
}  # fmt: skip
_TANKLESS = {"tl", "tkl", "tkls", "tnkls", "tankls", "tls"}
_STEMS = {"elektr", "electri", "elettr", "eletri"}
_ELECTRIC = {"el", "ele", "elc", "elec", "elect", "electric", "elektrisch", "elektro", "electrical"}


def kind(text: str) -> KindSaid | None:
    """Which kind of heater is meant; None where that is not said."""
    said = plainly(text)
    # "WH-G" says as much as "G".
    said = re.sub(r"^(wh|water heater|heater)[ /-]+", "", said)
    # Cheap and dear hours of electricity.
    said = re.sub(r"\bh[cp] ?/ ?h[cp]\b", "", said)
    # Half at once is out of a tank.
    said = re.sub(r"\bsemi-? ?instant\w*", "", said)
    # A burner under the tank, and not where its air comes from.
    said = re.sub(r"\bdirect[ -]?fired\b", "", said)
    words = set(re.findall(r"[a-z]+|\d+v?", said))
    compound = {stem for stem in ("gas", *_STEMS) for one in words - _NO_FUEL if one.startswith((stem, f"voll{stem}"))}
    gas = bool(words & _GAS or "gas" in compound or _GLUED_GAS.search(said))
    electric = bool(words & _ELECTRIC or compound & _STEMS or "240" in said or _GLUED_E.search(said))
    is_at_once = _AT_ONCE.search(said) and not re.search(r"\bindire", said)
    if said == "t" or words & _TANKLESS or is_at_once or (_ON_THE_WALL.search(said) and not electric):
        if re.search(r"condens|\bcond\b|brennwert", said):
            return KindSaid(HeaterKind.CONDENSING_TANKLESS)
        if (electric or "dle" in words) and not gas:
            return KindSaid(HeaterKind.ELECTRIC_TANKLESS)
        return KindSaid(HeaterKind.GAS_TANKLESS)
    if words & _HEAT_PUMP or re.search(
        r"heat[- ]?pump|warmepumpe|warmtepomp|bomba de calor|pompe a chaleur|pompa d[ie] calore?", said
    ):
        return KindSaid(HeaterKind.HEAT_PUMP_TANK)
    if (
        re.search(
            r"indire|\bcalorifier|register(boiler|speicher)|\b(single|dual|twin|double|one|two)[ -]coil\b|"
            r"\bindir\b|\bind(?=[ -]?\d)|\bind\. ?speicher|\bprep(a|arateur)?\.? ?ecs\b|\bpreparateur\b",
            said,
        )
        or (re.search(r"solar|solair", said) and not gas and not electric)
        or (words & {"boiler", "kessel"} and not compound and not electric)
    ):
        return KindSaid(HeaterKind.INDIRECT_TANK)
    if words & {"rv", "camper", "motorhome", "vehicle", "boat"}:
        return KindSaid(HeaterKind.MOBILE_TANK)
    if gas:
        if words & {"power", "powervent", "pv", "pwr"}:
            return KindSaid(HeaterKind.GAS_TANK, Vent.POWERED)
        return KindSaid(HeaterKind.GAS_TANK, Vent.DIRECT if _DIRECT.search(said) else "")
    return KindSaid(HeaterKind.ELECTRIC_TANK) if electric or _AT_THE_TAP.search(said) else None


def build(text: str) -> str:
    """How a heater is built and how many there are, where the words of a model say it; empty where they do not."""
    found = _BUILD.search(plainly(text))
    return found[0] if found else ""


_BUILD = re.compile(
    r"(condensing )?\b(tankless|heat[ -]pump|hpwh|on[ -]demand|continuous flow|durchlauferhitzer|warmepumpe\w*)\b"
    r"( condensing)?( ?\([2-9]\))?"
)
_DIRECT = re.compile(r"\bdv\b|\bdirect\b(?! ?-?(gas|fired))")
"""Air by a pipe of its own; a tank that is heated directly is something else."""
_FUELS = {"n": "natural gas", "p": "propane", "l": "lp"}


def as_meant(name: str, text: str) -> str:
    """What a cell says in a column of this name: a letter as the fuel that it stands for, where it is called so; a
    boiler as a tank with an element, where it is called in a tongue that calls those so."""
    named = plainly(name).replace("_", " ")
    if re.search(r"\bfuel\b|\benerg|brennstoff|combustible", named):
        return _FUELS.get(plainly(text), text)
    said = plainly(text)
    return f"elektro{said}" if _IS_A_TANK.search(named) and _A_BOILER.match(said) else text


_A_BOILER = re.compile(r"boilers?\b(?!.*\b(gas|ol|heizung|holz|solar|wp|indire\w*)\b)")
_IS_A_TANK = re.compile(
    r"\b(typ|art|gerat\w*|anlage|boiler(art|typ)?|appareil|toestel|apparecchio|ww\w*|warmwasser\w*)$"
)
"""Columns of lists in German, French, Dutch and Italian."""


_WIRE_MM = 2.0
"""The core of a rod, which is left when all else has gone. Trade practice."""
_OF_KINDS = _ELECTRIC | {
    "gas", "ng", "lp", "lpg", "propane", "natural", "nat", "e", "g", "pv", "dv", "power", "powervent", "direct", "vent",
    "vented", "std", "standard", "atmospheric", "tankless", "on", "demand", "condensing", "heat", "pump", "hp", "hpwh",
    "hybrid", "wp", "tkls", "tl", "indirect", "indirekt", "boiler", "kessel", "tank", "heater", "water", "wh", "rv",
    "storage", "speicher", "type", "durchlauferhitzer", "brennwert", "warmepumpe", "camper", "motorhome", "vehicle",
    "boat", "instant", "240", "240v", "reservoir", "deposito", "tanque", "sin", "sans", "electrique", "electrico",
    "gaz", "naturel", "atm", "atmos", "chim", "chimney", "us",
}  # fmt: skip


def is_kind_alone(text: str) -> bool:
    """Whether a cell says nothing but which kind of heater it is."""
    words = re.findall(r"[^\W_]+", plainly(text))
    return all(word in _OF_KINDS or _COMPOUND.sub("", word) in _OF_KINDS for word in words)


_COMPOUND = re.compile(r"^(gas|elektro)")


_CHANGED = re.compile(
    r"^([1-4] )?(rods? |anodes? )?(repl(aced)?|new|changed|vervangen|neu|ersetzt|getauscht|changee?|"
    r"r(?= \d)|chg(?:d|ee?)?|cambiad[ao]|sostituito|remplacee?|renouvelee?|neuve|nuev[ao]|nieuw|nuov[ao]|"
    r"renovad[ao]|substituid[ao])?"
    r"( rods?| anodes?)?[ .:]*(in )?(?='?\d)"
)
"""What is said before the day since when a rod is there: "repl 2021", "2 rods 2023"."""


_GONE_THEN = re.compile(
    r"^(verbr(aucht)?|used up|gone|eaten|spent|aufgebraucht|gastado|esaurito|epuisee?)\W+"
    r"(?=(replaced|repl|new|changed|neu|ersetzt|changee?)\b.*\d)"
)
"""What was found of the old one, before what is said of the new one."""


_NO_ROD = {
    "none", "no", "keine", "without", "sans", "sin", "no tiene", "no lleva", "geen", "ohne", "o. anode", "ohne anode",
    "sans anode", "no anode", "keine anode",
}  # fmt: skip
_NO_ROD_BECAUSE = re.compile(
    r"(n|no|none|keine|sans|non)\.?,? ?\(?(stainless|edelstahl|inox|s/s|ss|copper|kupfer|cuivre)\b.*|"
    r"(s/?s|stainless|inox|edelstahl)\b.*\b(none|no|keine|sans)( rod| anode)?"
)
"""A tank of a metal that needs none."""
_ALLOY = re.compile(
    r"(al(?:u|um|umin\w*)?[ /-]zi?nc?|mg|mag|magnesium|magnesio|al|alu|alum|aluminum|aluminium|zinc|al zn)\b\.?"
)
_ALLOY_BEHIND = re.compile(r"^('?\d[\d./-]*) (mg|mag|magnesium|al|alu|aluminum|aluminium|al[ /-]zn)\.?$")
"""What it is made of, behind the day since when it is there."""
_RENEWED_SINCE = re.compile(
    r"\b(?:repl(?:aced)?|new|changed|neu|ersetzt|getauscht|changee?|remplacee?)\b[ .:]*(?:in |en |le )?('?\d[\d./-]*)$"
)


@dataclass(frozen=True)
class RodSaid:
    alloy: str = ""
    fitted_on: datetime.date | None = None
    diameter_mm: float | None = None
    original: bool = False
    used_up: bool = False

    def beside(self, other: "RodSaid") -> "RodSaid":
        """The same with what another cell says of it."""
        return RodSaid(
            self.alloy or other.alloy,
            self.fitted_on or other.fitted_on,
            self.diameter_mm or other.diameter_mm,
            self.original or other.original,
            self.used_up or other.used_up,
        )


def rod(text: str, today: datetime.date, day_first: bool, unit: str) -> RodSaid | None:
    """What is said of an anode rod: its metal, since when, how thick. Raises: BadCell."""
    said = plainly(text)
    if is_unknown(text):
        return None
    if said.rstrip(".") in _NO_ROD or _NO_ROD_BECAUSE.fullmatch(said):
        return RodSaid(Alloy.NONE)
    if re.search(
        r"\b(powered|pwrd?|power anode|fremdstr\w*|electronique|elektronisch\w*|aci|courant impose|titan(?:e|ium)?)\b",
        said,
    ):
        return RodSaid(Alloy.POWERED)
    if re.match(r"n/?a\b", said):
        return None
    if re.fullmatch(
        r"(verbraucht|verbr\.?|used up|gone|eaten|spent|aufgebraucht|gastad[ao]|agotad[ao]|esaurito|epuisee?)"
        r"(\.|\W+(\(?(19|20)\d\d\)?,? ?)?(noch )?(nicht|not|never|still|n\.)(?= ).*)?",
        said,
    ):
        return RodSaid(used_up=True)
    if re.fullmatch(
        r"(oem|orig|org|original[ea]?|origineel|d'origine|origine|factory|de fabrica|di fabbrica|ab werk|erste|"
        r"never( pulled| changed| replaced| out| seen)?|(the )?(first|1st)( one)?|nie|jamais|nunca|nooit)\.?"
        r"( \((19|20)\d\d\))?",
        said,
    ):
        return RodSaid(original=True)
    said = _ALLOY_BEHIND.sub(r"\2 \1", said)
    said = _CHANGED.sub("", _GONE_THEN.sub("", re.sub(r"(?<=[a-z])[ -]anoden?\b", "", said)))
    said = re.sub(
        r"(?<=\d) (replaced|repl|new|changed|vervangen|neu|ersetzt|getauscht|changee?|cambiad[ao])$", "", said
    )
    if re.fullmatch(r"\d{1,2}([.,]\d{1,2})? ?(mm|cm|in|\")?", said):
        found = amount(text, Quantity.LENGTH, unit, _WIRE_MM, 60.0)
        return RodSaid(diameter_mm=found.value) if found else None
    found_alloy = _ALLOY.match(said)
    if not found_alloy and re.search(r"\d", said):
        with contextlib.suppress(BadCell):
            return RodSaid(fitted_on=day(said, today, day_first).on)
    if not found_alloy:
        raise BadCell(f"{text[:40]!r} says nothing known of a rod")
    word = found_alloy[1]
    metal = Alloy.MAGNESIUM if word.startswith("m") else Alloy.ALUMINIUM_ZINC if "z" in word else Alloy.ALUMINIUM
    rest = said[found_alloy.end() :].strip(" ,")
    if later := _RENEWED_SINCE.search(rest):
        # Behind what it measures, or how the one before it was.
        rest = later[1]
    rest = _CHANGED.sub("", rest)
    if re.match(r"\d{1,3} ?%", rest):
        # How it was found.
        rest = ""
    return RodSaid(metal, day(rest, today, day_first).on if rest else None)
