"""What a line of somebody's job book says was done and found, in the trade's own shorthand.

A line is read clause by clause: each says something of the deposit, the rod, the relief valve or another thing, or goes
on about the thing before it. A clause of what was not done, or is only wished for, says nothing. What no rule
understands stays as it was written. Source of the words and grades: trade practice.
"""

import re
from collections.abc import Callable, Iterable
from fractions import Fraction
from typing import TypeVar

from aquifer.core.parameters import ANODE
from aquifer.core.vocabulary import (
    DrainFlow,
    ExpansionTankPin,
    Fouling,
    Removed,
    RodGrade,
    Task,
    Texture,
    UpkeepItem,
    ValveOutcome,
)
from aquifer.formats.said import plainly

_QUART_L, _GALLON_L, _BUCKET_L = 0.946, 3.785, 19.0
"""A bucket of the trade holds five gallons."""
_PSI_KPA, _BAR_KPA = 6.895, 100.0
"""Source: definitions of the units, to four figures."""
_DEPOSIT = r"(sand|grit|sediment|scale|deposit|flakes?|crud|mud|white|lime|gunk|sedimentos?|arena|sarro|sable|calcaire)"
_BLOCKED = r"drain (is |was )?(plugged|blocked|clogged)|(would not|wouldn'?t) drain|verstopft"
_THINGS = (
    (
        "expansion tank",
        r"\b(exp|expansion|xt)\b( tank)?|\bvessel\b|ausdehnung|"
        r"\bm?ag (voll|vordruck|defekt|ersetzt|erneuert|neu|gepruft|getauscht|io|ok)",
    ),
    (
        "valve",
        r"\bt ?[&+/]? ?ps?\b|\btpr?v?\b|\bptr(?:v|'?s)?\b|relief|\bsi?ve?\b|sicherheits(ventil|gruppe)|"
        r"inlaatcombinatie|groupe de securite|valv\w+ de (seg|alivio)|valvola di sic|\bsoupape",
    ),
    (
        "rod",
        r"\banod[eo]|(?<!flame )\brods?\b|opferanode|"
        r"\b(swapped|changed|switched|replaced)( the)? (mag|magnesium|alum\w*|aluminium)( rod)? (for|to|with)\b",
    ),
    ("descale", r"descal|\bdesc\b|\bdelim(ed|ing)\b|\bacid\b|entkalk|ontkalk|detartr|d[ei]sincrust|disincrost"),
    ("screen", r"\bscreens?\b|\bscrns?\b|sieb|inlet filter"),
    ("air filter", r"\bair filter|\b(cleaned|washed|rinsed) (the )?filter\b|luftfilter|filtre a air"),
    ("element", r"\belements?\b|\bresistenc\w+|\bresistance\b"),
    ("pressure", r"\b(static|house|water|incoming) pressure|\bpressure \d|\d ?psi static|\bstatic \d"),
    (
        "flush",
        r"\bflu?sh|^fl (?!oz|\d)|\b(lt|med|hvy) sed\b|\bdrained\b|\bsediment\b|\bqts?\b|\bquarts?\b|\bbucket|"
        r"\beimer\b|\bkubel\b|spulen|gespult|spulung|\bpurg|gespoeld|"
        r"vidange|rincage|speicher gereinigt|(kalk|schlamm) (entfernt|ausgeraumt|abgesaugt)|"
        r"(boiler|speicher|kessel)reinigung|entschlamm|"
        r"\b(drenad[oa]|enjuag\w+|purgad[oa]|vaciad[oa]|rince)\b|"
        rf"vac'?(c?ed|uumed)( out)? (the )?(tank|heater|bottom|it|~?\d)|{_BLOCKED}",
    ),
    (
        "another part",
        r"thermocouple|gas (valve|control)|ignit|burner|faucet|\bpump\b|\bprv\b|mixing valve|dip tube|thermostat|pilot|"
        r"\bpan\b|\bvent|shut ?off|ball valve|drain valve|\bw/?h\b|\bheater\b|flame|\bfan\b|toilet|sink|"
        r"druckminderer|druckregler|\bmischer\b|steuergerat|\bpumpe\b|brenner|abgas",
    ),
)
"""What a clause may be about: everything that it names. Of another part nothing is read."""
_BETWEEN = re.compile(
    r"[;()\n]|(?<!\d),|,(?!\d)|\.(?!\d)| [-–] | & | \+ | / (?=[^\W\d])|(?:->|=>|\u2192)(?= ?[^\W\d])|"
    r"\b(?:and|und|but|however|aber)\b"
)
_NOT_DONE = re.compile(
    r"\b(recommend\w*|rec|rec'?d|suggest\w*|needs?|needed|quoted?|due for|"
    r"next (time|visit|year|spring|fall)|will|should|advised?|"
    r"wants?|schedul\w*|order(ed)?|declin\w*|refus\w*|skip\w*|postponed|"
    r"(did not|didn'?t|could ?n[o']t|couldn'?t|can'?t|cannot|unable to|no) "
    r"(get|do|flush|test|lift|try|pull|remove|check|drain|descale|open|exercise|operate|touch|replace|change)\w*|"
    r"untested|not possible|impossible|"
    r"not (tested|tried|lifted|done|checked|flushed|pulled|descaled|exercised|operated|replaced|changed)|"
    r"n/a|not an? (flush|descale|service)|to be (replaced|done|flushed|changed|descaled|tested|checked)|"
    r"nicht (getauscht|ersetzt|erneuert|gewechselt|gespult|gepruft|gemacht|entkalkt|geoffnet|moglich|tauschen)|"
    r"niet (vervangen|gedaan|getest|gespoeld)|pas (changee?|faite?|teste)|"
    r"(pas|sans|non) (de )?(detartr\w*|vidang\w*|rinc\w*|control\w*|entretien|fait\w*|chang\w*)|"
    r"ohne (spulung|entkalkung|wartung|reinigung)|sin (limpi\w*|descalci\w*|purga\w*)|"
    r"(did not|didn'?t|does not|doesn'?t|would not|wouldn'?t) (want|let|allow|agree)\w*|"
    r"(pas|plus) voul\w*|(ne veut|voulait) pas|wollte (nicht|keine?)|"
    r"no se (cambio|hizo|pudo)|"
    r"keine? (spulung|entkalkung|wartung|prufung)|abgelehnt|vorgeschlagen|empfohlen|bestellt|"
    r"never (tested|flushed|done|checked|replaced|lifted|pulled)|set up for|(came|here|going) to|not needed|"
    r"by (others|(a )?previous|another|someone|somebody|(the )?(owner|customer|tenant|landlord))|"
    r"(him|her|them)self|per (tag|sticker|label|notes?)|last (week|month|year|time|visit)|"
    r"(years?|months?) ago|previously|looks? like it was)\b"
)
_OFFER = re.compile(r"(quote|quotation|estimate|proposal|bid|angebot|devis|offerte|preventivo|presupuesto)\b")
"""How a line begins that says what could be done."""
_OTHER_FLUSH = re.compile(
    r"winteri[sz]|for (the )?winter|shut ?down|freeze|"
    r"toilet|urinal|flush ?valve|flushometer|power flush|heating (system|loop)|radiator|sewer|main line"
)
"""What is flushed, too, and is no heater."""
_WANTED = re.compile(r"\b(recommend\w*|suggest\w*|needs?|needed|quoted?|advised?)\b")
_LATER = re.compile(r"\b(next|later|future|soon|spring|summer|fall|winter|will|schedul\w*|declin\w*|refus\w*)\b")
_DONE_AFTER_ALL = re.compile(
    r"(so |then )?(we )?(was |were |is |has been )?(replaced|installed|changed|swapped|renewed|done|did)"
    r"( (it|that|one|both))?( (today|same (day|visit|trip)|on the spot|while there))?\.?"
)
"""A clause that names nothing: what the clauses before wanted was done."""
_CLOSING = re.compile(r"(done|did)\.?")
"""Many end a line so; of a part that was wanted it says nothing."""
_CAME_OUT = r"\b(?:got|removed|took|out|of|about|pulled|vac'?(?:c?ed|uumed)) ~?"
"""Before pounds, which are those of a pressure, too."""
_REMOVED = (
    (Removed.BLOCKED, _BLOCKED),
    (
        Removed.HEAVY,
        r"\blots\b|\bheavy|\bfull of\b|\bloaded|half (a )?bucket|1/2 bucket|bucket|eimer|kubel|viel\b|"
        rf"{_CAME_OUT}\d{{2,3}} ?(lbs?|pounds)\b(?! pressure)|\b([4-9]|\d\d) ?kg\b",
    ),
    (
        Removed.NONE,
        r"(?<!till )(?<!until )(?<!til )(?<!ran )(?<!runs )(?<!then )\b(clear|clean)\b|nothing (came )?out|"
        r"\b(no|0|zero) (sediment|scale|sand)\b|sediment none\b|sauber|klar",
    ),
    (Removed.TRACE, r"\btrace|hardly any|\bsmall amount|kaum|\bpeu de\b|\ba bit\b|\blittle\b|\blight\b|cup\b|wenig"),
    (
        Removed.MODERATE,
        r"\bqts?\b|\bquart|\bsome\b|\bmed\b|\bmod\b|\bmoderate|\bsand\b|\bwhite\b|"
        rf"{_CAME_OUT}\d(?:[.,]\d)? ?(?:lbs?|pounds)\b|\b\d(?:[.,]\d)? ?kg\b",
    ),
)
_TEXTURES = ((Texture.SAND, r"\bsand"), (Texture.FLAKES, r"\bflak|\bwhite\b|\bchips?\b"))
_GRADES = (
    (RodGrade.MOSTLY_GONE, r"mostly gone|nearly gone|almost gone|wire (is |was )?(exposed|showing)"),
    (RodGrade.HALF, r"\bhalf\b|50 ?%|1/2|\bhalfte\b|\bhalb\b"),
    (
        RodGrade.GONE,
        r"(gone )?to wire|bare wire|\b(wire only|only wire)\b|"
        r"was (all )?wire|\bgone\b|eaten up|\bconsumed\b|verbraucht|\bweg\b|\bfinie?\b|"
        r"\b(gast|agot)ad[oa]\b|\busee\b",
    ),
    (RodGrade.WORN, r"\bworn\b|\bsome left"),
    (RodGrade.LIKE_NEW, r"like new|wie neu|neuwertig|\bgood\b|\bok\b|\bio\b|\bgut\b"),
)
_LEFT = re.compile(
    r"(?:(\d{1,3}) ?%|\b([1-4])/([2-5])\b) ?"
    r"(gone|used|consumed|worn|eaten|left|remain\w*|good|verbraucht|verbr\b|aufgebraucht|abgetragen|abgebaut|weg|ubrig|rest)"
)
_NEW = (
    r"(?<!like )\bnew\b|\breplaced\b|\brepl(d|'d)\b|\brepl\.?$|\binstalled\b|\bswapped\b|\bchanged\b|\bput in\b|"
    r"(?<!wie )\bneue?[rs]?\b|\bneu(?:fs?|ves?)\b|erneuert|ersetzt|getauscht|"
    r"vervangen|vernieuwd|\bchangee?\b|remplacee?|\bse cambio\b|\bcambiad[ao]\b|sostituit[ao]"
)
_WELL = r"\bok\b|\bgood\b|\bfine\b|\bworks\b|\bio\b|\bgut\b|gang(bar|ig)\b|schliesst dicht|gepruft"
_OUTCOMES = (
    (
        ValveOutcome.FLOWS_AND_WEEPS,
        r"\b(not|won'?t|wouldn'?t) (fully )?reseat|drip|dribbl|weep|leak|\bpassing\b|letting by|"
        r"tropf|undicht|goutt|lekt",
    ),
    (ValveOutcome.NO_FLOW, r"stuck|no flow|no water|frozen|seized"),
    (ValveOutcome.FLOWS_AND_RESEATS, rf"{_WELL}|tested|testee?|probad[oa]|eased|lifted|(an)?geluftet|exercis|reseat"),
)
_PINS = (
    (ExpansionTankPin.WATER, r"waterlogged|full of water|bladder|\bdead\b|\bvoll\b.*\bwasser\b"),
    (ExpansionTankPin.AIR, rf"{_WELL}|checked|pumped"),
)


_WELL_OF = re.compile(r"\b(ok|good|fine|io|gut)\b")


def _alone(words: str) -> re.Pattern[str]:
    """A clause of nothing but these words."""
    return re.compile(rf"(?:{words})(?:[ !.:]+(?:{words}))*[ !.:]*")


_WELL_ALONE = _alone(
    r"was|is|are|were|looks?|looked|still|all|both|in|very|tested|works?|working|operat\w+|it|now|after\w*|and|"
    r"properly|reseats?|reseated|well|condition|shape|there|getest|gepruft|replaced?|ok|good|fine|io|gut|alles|noch|sehr"
)
"""A clause that names nothing and says of the thing before it that it is well, and no more."""
_NEW_ALONE = _alone(
    r"replaced?|repl'?d?|installed|swapped|changed|renewed|new|neue?[nrs]?|erneuert|ersetzt|getauscht|gewechselt|vervangen|"
    r"vernieuwd|changee?|remplacee?|se|cambio|cambiad[ao]|sostituit[ao]|ones?|it|that|them|both|all|in|with|w/|for|a|an|"
    r"the|put|same|again|today|day|visit|trip|spot|on|size|part|unit|rod|valve|mag(?:nesium)?|alu?|alum\w*|zinc|al/zn|"
    r"alum?/zinc|powered|also|was|were|been|had|to|so|we|too|under|warranty|then|old|out|is|now|auch|gleich|daher|wurde|"
    r"mit|durch|gegen|per|from|truck|stock|and|und|customer|supplied|ok|good|fine|\d[\d/]*|#|\d+#|psi|bar|gal|inch|lb|ft|"
    r"no|charge|n/c|flush\w*|seg(?:mented)?"
)
"""A clause that names nothing and says of the thing before it that it is new, and no more: of what else it speaks, that
is new."""
_IN_SHORT = re.compile(
    r"\b(ca|approx|mod|med|repl|inst|vlv|htr|exp|elem|insp|chkd?|def|ern|gepr|incl|inkl|evtl|ggf|vorh|upr|lwr)\.(?= )"
)
"""After a word in short a point ends no clause."""
_NOT_IN_SHORT = re.compile(
    r"\bn\. ?(?=(?:entkalkt|gespult|gepruft|gereinigt|getauscht|gewechselt|ersetzt|erneuert|"
    r"gemacht|geoffnet|moglich)\b)"
)
Understood = dict[str, str | float | bool | None]
"""A finding by its fields."""
W = TypeVar("W", bound=str)


def findings(text: str, parts: str = "") -> list[Understood]:
    """What was done and found, as findings by their fields. Parameters: parts, what was used."""
    said, used = plainly(text.replace("½", "1/2").replace("–", "-").replace("’", "'")), plainly(parts)
    if _OFFER.match(said):
        return []
    said = _IN_SHORT.sub(r"\1", _NOT_IN_SHORT.sub("nicht ", re.sub(r"\bi\. ?o\b\.?", "io", said)))
    # Of two valves the one that is nobody's tank's is not asked for.
    said = re.sub(r"\b(tpr?v?|t ?[&+] ?p) ?(?:&|and|\+|/) ?(?:prv|ecv)s?\b", r"\1", said)
    about = _by_thing(re.sub(r"\bt ?(?:[&+/]|and) ?ps?\b", "t&p", said))
    found: list[Understood] = []
    for thing, read in _READS:
        if thing in about:
            found += read("; ".join(about[thing]), used)
    return [{name: value for name, value in one.items() if value != ""} for one in found]


def is_offer(text: str) -> bool:
    """Whether a line says what could be done, and nothing that was."""
    return bool(_OFFER.match(plainly(text)))


def _by_thing(said: str) -> dict[str, list[str]]:
    """The clauses of a line by what they are about; one that names nothing goes on about the one before it."""
    about: dict[str, list[str]] = {}
    last: list[str] = []
    wanted, wish = list[str](), ""
    for clause in (one.strip() for one in _BETWEEN.split(said) if one and one.strip()):
        named = [thing for thing, like in _THINGS if re.search(like, clause)]
        if not named and "descale" in about and _FLOWS.search(clause):
            named = ["descale"]
        if "flush" in named and _OTHER_FLUSH.search(clause):
            named = ["another part"]
        things = named or last
        last = things
        if _NOT_DONE.search(clause):
            # Whatever follows about it is why, and no finding.
            last = []
            if re.match(r"not an? ", clause):
                about = {thing: clauses for thing, clauses in about.items() if thing not in named}
            if "valve" in named and (seen := _ILL.match(clause)):
                # What is wrong with it was seen, though it is to be put right another day.
                about.setdefault("valve", []).append(seen[0])
            is_wanted = _WANTED.search(clause) and not _LATER.search(clause)
            wanted, wish = (things, clause) if is_wanted else ([], "")
            continue
        if not named and _WELL_OF.search(clause) and not _WELL_ALONE.fullmatch(clause):
            # Something else is well.
            continue
        if not named and re.search(_NEW, clause) and not _NEW_ALONE.fullmatch(clause):
            # Something else is new.
            last = []
            continue
        if named:
            wanted = []
        elif wanted and _is_done_after_all(clause, wanted):
            things, clause = wanted, f"{wish} {clause}"
        for thing in things:
            about.setdefault(thing, []).append(clause)
    return about


_ILL = re.compile(r".*\b(drip|dribbl|weep|leak|stuck|seized|tropft?)\w*")
"""A valve that does not hold or does not open."""


def _is_done_after_all(clause: str, wanted: list[str]) -> bool:
    if _CLOSING.fullmatch(clause):
        return set(wanted) <= {"flush", "descale"}
    return _DONE_AFTER_ALL.fullmatch(clause) is not None


def _flush(said: str, used: str) -> list[Understood]:
    if _OTHER_FLUSH.search(said) and not re.search(r"\bflu?sh", said):
        # Drained for the winter.
        return []
    if not re.search(r"\bflu?sh|\bdrained|abgesaugt|vacuumed", said) and re.search(
        r"\d ?(in|inch|inches|\"|mm|cm)\b|\b\w+ed in sediment|\b(no|0|zero) (sediment|scale|sand)\b", said
    ):
        # A depth that was looked at, what stood in it, or that there is none.
        return []
    flush: Understood = {
        "task": Task.FLUSH,
        "removed": _first(_REMOVED, said) or "",
        "texture": _first(_TEXTURES, said) or "",
    }
    if flush["removed"] == Removed.BLOCKED:
        flush["drain_flow"] = DrainFlow.NONE
    if (litres := _litres(said)) is not None:
        flush["removed_l"] = litres
    return [flush]


_FLOWS = re.compile(
    r"(\d+(?:[.,]\d+)?) ?(gpm|l/min|lpm)?\W*(?:before\W*)?(?:->|/|to|→|after|nachher|apres|now)"
    r"\W*(\d+(?:[.,]\d+)?) ?(gpm|l/min|lpm)?"
)
"""What ran through it before and after."""


def _descale(said: str, used: str) -> list[Understood]:
    descale: Understood = {"task": Task.DESCALE, "removed": _first(_REMOVED, said) or ""}
    if (litres := _litres(said)) is not None:
        descale["removed_l"] = litres
    if (flows := _FLOWS.search(said)) and (unit := flows[4] or flows[2]):
        unit_l = _GALLON_L if unit == "gpm" else 1.0
        descale["flow_before_l_min"], descale["flow_after_l_min"] = (
            round(unit_l * float(flows[one].replace(",", ".")), 2) for one in (1, 3)
        )
    return [descale]


def _rod(said: str, used: str) -> list[Understood]:
    grade = _first(_GRADES, said)
    if told := _LEFT.search(said):
        share = float(told[1]) / 100 if told[1] else float(told[2]) / float(told[3])
        gone = 1 - share if told[4].startswith(("left", "remain", "good", "ubrig", "rest")) else share
        grade = list(RodGrade)[sum(gone >= cut for cut in ANODE.grade_cuts)]
    inspection: Understood = {"task": Task.ANODE_INSPECTION, "grade": grade or ""}
    if thick := _DIAMETER.search(said):
        measure = _figure((thick[1] or thick[3]).replace(",", "."))
        millimetres = measure * (_INCH_MM if (thick[2] or thick[4]) != "mm" else 1.0)
        if _WIRE_MM <= millimetres <= _THICKEST_MM:
            inspection["diameter_mm"] = round(millimetres, 1)
    found: list[Understood] = [inspection] if grade or "diameter_mm" in inspection else []
    return found + _renewed(said, used, r"anode", Task.ANODE_REPLACEMENT)


_THICK = r"((?:\d+ )?[1-9]\d?/(?:2|4|8|16)|\d+(?:[.,]\d+)?) ?(mm|in(?:ch(?:es)?)?|\")"
_DIAMETER = re.compile(
    rf"(?<![\d/.,]){_THICK} ?(?:dia(?:m\w*)?\b|thick|rest|dick|stark)|(?:dia\w*|durchmesser)\W*{_THICK}"
)
"""How thick a rod was found."""
_INCH_MM = 25.4
"""Source: definition of the inch."""
_WIRE_MM, _THICKEST_MM = 2.0, 60.0
"""A rod's core, and more than any rod has. Assumption."""


def _valve(said: str, used: str) -> list[Understood]:
    outcome = _first(_OUTCOMES, said)
    found: list[Understood] = [{"task": Task.RELIEF_VALVE_EXERCISE, "outcome": outcome}] if outcome else []
    return found + _renewed(said, used, r"t ?&? ?p|relief", Task.RELIEF_VALVE_REPLACEMENT)


def _expansion_tank(said: str, used: str) -> list[Understood]:
    pin = _first(_PINS, said)
    found: list[Understood] = [{"task": Task.EXPANSION_TANK_CHECK, "at_valve": pin}] if pin else []
    return found + _renewed(said, used, r"exp", Task.EXPANSION_TANK_REPLACEMENT)


def _renewed(said: str, used: str, part: str, task: Task) -> list[Understood]:
    """That a part was renewed, by what is said of it or by the parts that were used."""
    is_new = re.search(_NEW, said) or re.search(rf"\brepl\.? (\w+ ){{0,2}}?({part})", said)
    return [{"task": task}] if is_new or re.search(part, used) else []


def _screen(said: str, used: str) -> list[Understood]:
    return [{"task": Task.UPKEEP, "item": UpkeepItem.INLET_SCREEN, "fouling": Fouling.LIGHT}]


def _air_filter(said: str, used: str) -> list[Understood]:
    return [{"task": Task.UPKEEP, "item": UpkeepItem.AIR_FILTER, "fouling": Fouling.LIGHT}]


def _element(said: str, used: str) -> list[Understood]:
    """What is said of one of the two that failed counts, though the other is well."""
    failed = re.search(rf"\bopen\b|\bburn|\bbad\b|\bfail|\bdead\b|\bshort|\bground|{_NEW}", said)
    return [{"task": Task.LOOK_OVER, "element_failed": True}] if failed or not re.search(_WELL, said) else []


def _pressure(said: str, used: str) -> list[Understood]:
    if not (told := re.search(r"(\d{1,3}(?:\.\d)?) ?(psi|#|bar|kpa)?", said)):
        return []
    unit_kpa = {"bar": _BAR_KPA, "kpa": 1.0}.get(told[2], _PSI_KPA)
    return [{"task": Task.PRESSURE_TEST, "static_kpa": round(float(told[1]) * unit_kpa, 1)}]


_READS: tuple[tuple[str, Callable[[str, str], list[Understood]]], ...] = (
    ("descale", _descale), ("flush", _flush), ("rod", _rod), ("valve", _valve), ("expansion tank", _expansion_tank),
    ("screen", _screen),
    ("air filter", _air_filter), ("element", _element), ("pressure", _pressure),
)  # fmt: skip


def _first(table: Iterable[tuple[W, str]], said: str) -> W | None:
    return next((word for word, like in table if re.search(like, said)), None)


def _litres(said: str) -> float | None:
    """How much deposit came out, where it was measured in something; gallons alone are water."""
    number = r"(?<![a-z\d./])((?:\d+ )?[1-3]/[2-4]|\d+(?:\.\d+)?|half a|half|an?)\s*(?:of an? )?"
    ways = (
        (r"(qts?|quarts?)\b", _QUART_L),
        (rf"(gal|gallons?)( of)? {_DEPOSIT}\b", _GALLON_L),
        (rf"(l|lit(?:er|re)s?|litros?)( of| de)? ({_DEPOSIT}|kalk|schlamm)\b", 1.0),
        (r"(?:buckets?|eimer|kubel)\b", _BUCKET_L),
    )
    for unit, litres in ways:
        if found := re.search(number + unit, said):
            return round(litres * _figure(found[1]), 2)
    return None


def _figure(said: str) -> float:
    """A number as it is said: "1 1/2", "half a", "a", "2.5"."""
    if said in ("half", "half a", "a", "an"):
        return 0.5 if said.startswith("half") else 1.0
    return sum(float(Fraction(part)) for part in said.split())
