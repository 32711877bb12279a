"""What other people call the columns of their lists, in small letters without marks. Source: trade practice."""

import re

from aquifer.formats.said import plainly


def plain(name: str) -> str:
    """A column's name as words in small letters: "InstallDate" and "Install date:" are the same."""
    apart = re.sub(r"(?<=[a-z]{2})(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z]{2})", " ", name)
    return " ".join(re.sub(r"[^a-z0-9]+", " ", plainly(apart)).split())


OTHER_NAMES = {
    "code": ("customer no", "customer number", "site no", "id", "number"),
    "name": ("customer name", "site name"),
    "phone": ("telephone", "tel", "mobile", "ph h", "ph", "phone no", "home phone", "telefon"),
    "email": ("e mail", "mail"),
    "tag": ("heater no", "asset", "asset no", "unit", "equipment no"),
    "site": ("site code", "property", "address code"),
    "customer": ("customer code", "account"),
    "kind": ("type", "heater type", "equipment type", "wh type", "fuel", "heater", "gerat", "unit type"),
    "street": ("address", "address 1", "strasse"),
    "town": ("city", "place", "ort"),
    "zone": ("water zone", "supply zone", "district"),
    "installed_on": ("installed", "install date", "installation date", "date of installation"),
    "capacity_l": ("capacity", "tank size", "size", "volume", "gallons", "litres"),
    "setpoint_c": ("setpoint", "temperature", "set temperature", "temp"),
    "input_kw": ("input", "power", "rating"),
    "ignition": ("ignition type", "pilot", "lighting"),
    "vent": ("vent type", "venting", "draft", "flue type"),
    "serial": ("serial no", "serial number", "s n", "sn", "seriennummer"),
    "maker": ("make", "manufacturer", "brand"),
    "location": ("where", "room", "position"),
    "people": ("occupants", "persons", "residents", "personen", "household"),
    "static_pressure_kpa": ("pressure", "water pressure"),
    "softened": ("softener", "water softener"),
    "anode_fitted_on": ("anode date", "anode replaced"),
    "relief_valve_fitted_on": ("relief valve date", "valve replaced"),
    "taken_on": ("date", "tested", "test date"),
    "total_hardness_mg_l": ("hardness", "total hardness"),
    "alkalinity_mg_l": ("alkalinity",),
    "ph": ("ph value",),
}
"""Names that other people give to our columns, in small letters without marks. Trade practice."""
LIST_NAMES = {
    "account": (
        "acct",
        "cust id",
        "customer id",
        "id",
        "no",
        "number",
        "account no",
        "account number",
        "customer no",
        "customer number",
        "cust no",
        "kundennummer",
        "kundennr",
        "kd nr",
    ),
    "company": ("company", "company name", "business", "business name", "firma"),
    "first_name": ("first name", "first", "given name", "forename", "vorname", "prenom", "voornaam"),
    "customer": (
        "bill to",
        "customer name",
        "client",
        "owner",
        "name",
        "kunde",
        "klient",
        "who",
        "last name",
        "last",
        "surname",
        "family name",
        "nachname",
        "achternaam",
        "cognome",
        "apellido",
        "apellidos",
    ),
    "house_number": (
        "house no",
        "house number",
        "house",
        "street no",
        "street number",
        "hausnummer",
        "hausnr",
        "haus nr",
        "hnr",
    ),
    "apartment": ("apt", "apartment", "suite", "ste", "unit no", "address 2", "addr 2", "address line 2"),
    "count": ("qty", "quantity", "how many", "no of heaters", "number of heaters", "heaters", "anzahl"),
    "address": (
        "adresse",
        "anschrift",
        "service addr",
        "service address",
        "where",
        "site address",
        "job address",
        "addr",
        "location address",
    ),
    "phone": ("landline", "home", "daytime", "festnetz"),
    "second_phone": ("ph m", "cell", "mobile", "cell phone", "phone 2", "alt phone", "mobil", "handy"),
    "postcode": ("zip", "zip code", "postal code", "post code", "plz"),
    "state": ("province", "st"),
    "make_and_model": ("make model", "make and model", "brand model", "unit make model", "manufacturer model"),
    "model": ("typ", "modell"),
    "make": ("maker", "manufacturer", "brand", "hersteller"),
    "size": ("capacity", "tank size", "volume", "gallons", "litres", "inhalt", "gal", "l"),
    "setpoint": ("set at", "temperature", "temp", "set temperature", "temperatur", "set temp"),
    "pressure": ("psi", "water pressure", "house pressure", "static pressure", "druck", "bar"),
    "hardness": ("hard", "water hardness", "total hardness", "gpg", "harte", "grains"),
    "installed": (
        "put in",
        "install date",
        "installed on",
        "in service",
        "baujahr",
        "year",
        "yr",
        "date installed",
        "mfg date",
        "manufactured",
        "age",
        "jg",
        "bj",
        "jahrgang",
    ),
    "street": ("street name",),
    "last_flush": (
        "last service",
        "last flush",
        "flush",
        "last flushed",
        "flushed",
        "letzte wartung",
        "last svc",
        "wartung",
    ),
    "expansion_tank": ("exp tank", "expansion", "xt", "expansion tank", "ausdehnungsgefass"),
    "softener": ("softnr", "softened", "water softener", "enthartung"),
    "well": ("well or city", "water source", "source", "supply", "brunnen"),
    "anode": ("anode rod", "rod", "opferanode", "anode type"),
    "relief_valve": ("relief valve", "t p", "t p valve", "tprv", "sicherheitsventil"),
    "note": ("remarks", "remark", "notes", "comments", "bemerkung", "bemerkungen", "bem"),
}
"""In an office's own list, where a row has all of them."""
JOB_NAMES = {
    "on": ("date", "day", "when", "job date", "completed", "datum"),
    "customer": ("who", "client", "name", "bill to", "customer name", "kunde"),
    "address": (
        "where",
        "service addr",
        "service address",
        "job addr",
        "job address",
        "site address",
        "addr",
        "street",
        "site",
        "location",
        "adresse",
        "strasse",
    ),
    "technician": ("done by", "tech", "by", "plumber", "monteur"),
    "done": (
        "what was done found",
        "what was done",
        "work done",
        "work performed",
        "service performed",
        "services",
        "what we did",
        "description",
        "job",
        "work",
        "what",
        "details",
        "findings",
        "service notes",
        "notes",
        "arbeit",
    ),
    "parts": ("parts", "materials", "part", "material", "parts used", "materials used"),
    "minutes": (
        "duration",
        "job duration",
        "time on site",
        "time on job",
        "on site",
        "minutes",
        "mins",
        "min",
        "minutes on site",
        "dauer",
        "einsatzdauer",
    ),
}
"""In a job book."""
JOB_LIKE = (
    ("done", r"\bsediment\b"),
    ("account", r"^(kd|kunden|cust(omer)?|client) ?(no|nr|num(ber)?|id)$|^(acct|account)( no| number)?$|^folio$"),
    ("note", r"\b(no|nr|number|num|qty|hrs|hours|amt|amount|rate|price|total|cost|betrag|time|code|id|wo|auftrag)$"),
    ("on", r"\b(date|day|datum|fecha|data|when|on|mo|month|monat)\b|\bcompl"),
    ("customer", r"\b(cust\w*|client\w*|name|kunde|klant|owner|who|bill|account)\b"),
    ("address", r"addr|street|strasse|\bloc\b|location|\bsite\b|property|where|direcc|indirizzo|\bobjekt"),
    (
        "technician",
        r"\b(tech\w*|tecnic\w*|intervenant|operaio|operario|uitvoerder|crew|plumber|monteur|engineer|emp\w*|"
        r"assigned|attendees|mechanic)\b",
    ),
    ("done", r"descr|narrative|work|service|\bsvc|task|what|detail|finding|befund|tatigkeit|arbeit"),
    (
        "done",
        r"\b(subject|action|result|memo|comments?|remarks?|bemerkung\w*|flush|descale|anode|rod|t p|tpr?v?|exp tank)\b",
    ),
    ("parts", r"\bparts?\b|\bmat(eria)?ls?\b|\bmaterial"),
)
"""What a name of a job book is like."""
NOT_YET = re.compile(r"\b(sched\w*|due|next|plan\w*|booked|invoice|inv|paid)\b")
"""Days other than that on which it was done."""
THING_NAMED = re.compile(
    r"\b(flush(ed)?|descaled?|anode|t p( valve)?( tested| exercised)?|exp tank|expansion tank|inlet screen|sediment)\b"
)
DONE = {"y", "yes", "x", "done", "ja", "j", "true", "1", "\u2713", "\u2714"}
NOT_DONE = {
    "n", "no", "none", "nein", "false", "0", "-", "not done", "due", "overdue", "pending", "open", "later", "next time",
    "next visit", "skip", "skipped", "declined", "refused", "scheduled", "fallig", "offen",
}  # fmt: skip
"""Said of a thing that a column names."""
NOTES_BESIDE = ("notes", "details", "description")
"""Say what was done where nothing else does, and else what the office noted."""
LETTERS_GO = r"\b(mailing|billing|postal(?! code)|invoice|correspondence)\b|\bbill to [2-9]\b|rechnungs|facturation"
"""Of an address: where letters go, and no heater stands."""
LIVES_THERE = r"\b(tenant|resident|occupant|occupier|mieter|bewohner|locataire|inquilino|huurder|contact)"
"""Who is to be met in a house, which may be another's."""
_OF_ONE = (
    r"(marque|capacite|contenance|annee|art|inhalt|bj|baujahr|size|make|year|capacity|gallons|age|yr|l|liter|gal|"
    r"typ|kw)"
)
ALL_OF_A_HEATER = re.compile(
    r"^(appareil|gerat|heater|unit|equip\w*|appliance|anlage|wh|equipo|ballon|chauffe eau)\b"
    rf".*\b{_OF_ONE}\b.*\b{_OF_ONE}\b"
)
"""A column that has in one cell what others tell of a heater in several."""
LIKE = (
    ("note", r"^more in the row$"),
    ("note", r"\b(summary|result|findings?|notes?|comments?)$"),
    (
        "note",
        r"warrant|garantie|intervall?|turnus|\b(every|alle)\b|balance|owed|price|"
        r"\b(cost|fee|charge|amount|rate|preis|prix|precio|prezzo|prijs|value)\b|"
        r"\b(next|due|nachste[rsn]?|prochaine?|prossim[oa]|proxim[oa]|volgende|fallig)\b|"
        r"interval|freq|piped|anodenstrom|\bma$",
    ),
    ("email", r"e ?mail|courriel|correo"),
    ("phone", r"\b(ph|phone|tel|telefon) ?1$|^(home|work|office|daytime|evening|landline|privat|geschaft)$"),
    (
        "second_phone",
        r"\b(ph|tel|telefon) ?2$|cell|mobile|mobil|\bmob\b|handy|\b(gsm|natel)\b|phone 2|2nd ph|alt ph|\btel 2|"
        r"portable|celular",
    ),
    ("latitude", r"\blat(itude)?$|breitengrad"),
    ("longitude", r"\b(lon|lng|long)(itude)?$|langengrad"),
    ("phone", r"\b(phone|ph|tel|telefon)|telefo|telemov|(contact|best) (no|num)|^call$"),
    ("phone", r"\bwho(m)? to (call|ring|ask|phone|contact)\b"),
    ("customer", r"^(nach|familien)?name (und |u )?vorname$|^vorname (und |u )?(nach)?name$"),
    ("account", r"\b(location|site|property|building) (id|code|no|number)$"),
    ("town", r"\b(site|property|service|svc|job|premises?) (city|town|suburb)$"),
    ("street", r"\b(site|property|service|svc|job|premises?) street( (1|address))?$"),
    ("state", r"\b(site|property|service|svc|job|premises?) (state|province|region)$"),
    ("customer", r"\bname (last|first) (first|last)$|\blast name first( name)?$"),
    ("note", r"hartebereich|\b(hardness|hard|water) (class|grade|range|band|code)\b"),
    ("note", r"\b(unit|asset|equip\w*|heater|wh) (id|tag|code)$"),
    ("first_name", r"\b(first|given)( name)?$|\b(forename|vorname|prenom|voornaam)$"),
    ("customer", r"^cust$|^(account|acct)( name)?$"),
    ("account", r"\b(no|n|num|numero|nr|codigo|code) (de |du |del |d )?(client|cliente|abonne)\b|^folio$"),
    ("account", r"^(objekt|anlage|liegenschaft)( ?(nr|no))?$"),
    ("account", r"\b(acct|account|cust(omer)? (no|num|id)|kunden ?n|klant ?n)|\bref(erence)?( no)?$"),
    ("account", r"^(cust|customer|client|kunde|klant|cliente)$"),
    ("town", r"\b(city|town|plz|zip)\b.*\b(st|state|zip|ort|city|town)\b"),
    ("postcode", r"\b(zip|postal|plz|c ?p|p ?code|cap|eircode)\b|\bpostal|postleit|post ?code"),
    ("town", r"\baddr\w* (city|town)$"),
    ("address", r"\b(street|addr\w*)\b.*\b(city|town|ort)\b"),
    ("street", r"\bstreet|strasse|\bst name\b"),
    ("town", r"\baddr\w* (city|town)\b"),
    ("state", r"\b(state|region|province)$"),
    ("customer", r"\bowners?\b|eigentumer|^(household|family|familie|famille|familia)$"),
    ("apartment", r"\baddr\w* ?(line ?)?2$|^(flat|plot)( (no|num|number))?$"),
    (
        "address",
        r"addr|adress|\badres\b|anschrift|direccion|indirizzo|morada|objekt(?! nr)|liegenschaft|wirtschaftseinheit",
    ),
    ("address", r"^(block|scheme)( name)?$|\b(calle|domicilio|endereco)\b|^rue\b|^(haus|gebaude|immeuble|residence)$"),
    ("address", r"(?<!\bon )\b(site|premises|property|bldg unit)\b"),
    (
        "town",
        r"\b(town|twn|city|suburb|ort|ville|ciudad|localid\w*|plaats|woonplaats|wohnort|stadt|gemeinde|village|poblacion|citta|"
        r"commune|comune|localite|gemeente|stad|colonia|barrio|municipio)\b",
    ),
    (
        "customer",
        r"\b(customer|client|klient|klant|bill|kunde|name|naam|nome|nombre|nom\b|who|auftraggeber|betreiber|\w*holder)",
    ),
    ("customer", LIVES_THERE),
    ("phone", r"\bcontact\b"),
    ("make_and_model", r"\b(make|model)\b.*\b(serial|s n)\b"),
    ("make_and_model", r"\b(fabrikat|hersteller|marke)\b.*\btyp|\b(marque|marca|merk)\b.*\bmod"),
    ("make", r"\bfabrikat\b"),
    ("serial", r"serial|\bsn$|\b(s n|ser|s no)\b|fabr(ik|ication|icacion)? ?n|serien|\bserie\b|matricola"),
    ("installed", r"\b(mfr|mfg|mfd|manuf\w*)\b.*\b(date|yr|year)\b|\bdate of (mfr|mfg|manuf)"),
    ("make_and_model", r"\bmake\b.*model|brand"),
    ("model", r"\b(model|mdl)"),
    ("make", r"\b(make|mfr|manuf(acturer)?|hersteller|marque|marca)\b"),
    (
        "input",
        r"\binput\b|\bbtuh?\b|\bmbh\b|\bwatts?\b|\bwattage\b|\bkw input\b|\bburner (size|rating)\b|^power( kw)?$|"
        r"^p(uiss\w*)? kw$|"
        r"anschlusswert|nennleistung|heizleistung|^leistung\b|^puissance\b",
    ),
    ("expansion_tank", r"\bvase (d )?exp|^mag( l)?$"),
    ("pressure", r"\bp(ression)? (reseau|eau|service|ville)\b"),
    ("relief_valve", r"\bgr(ou)?pe sec"),
    ("expansion_tank", r"\bexpansion\b|\bexp (tank|vessel|tk)\b|^exp$|ausdehnung|\b[xe] ?tank\b|^ag( l)?$"),
    ("relief_valve", r"\b(t p|tp|tpr|tprv|ptr|relief)\b|sicherheits(ventil|gruppe)|soupape|groupe (de )?securite"),
    (
        "relief_valve",
        r"^(valves?|ventil)$|^gs\b|\bvalv\w+ (de |di )?(seg|alivio|sic)|^si ?v$|^sv( gew\w*)?$|"
        r"veiligheids(ventiel|groep)|inlaatcombinatie",
    ),
    ("anode", r"^ar$|^(anode|rod)s?( rod)? (last|prev)$|\b(last|prev(ious)?) (anode|rod)\b"),
    (
        "last_flush",
        r"flush|\bdrain(ed)?( down)?$|last (completed )?(pm|svc|serv|maint|visit)|"
        r"letzter? service|\b(svc|service|pm|maint\w*) (hist\w*|log|dates?)$|^done$|"
        r"descal|wartung|entkalk|\bentk\b|entretien|vidange|onderhoud",
    ),
    ("last_flush", r"^(visit|service|svc|call|pm) ?\d? ?(19|20)\d\d$"),
    ("last_flush", r"mantenimiento|manutenzione|manutencao|(ultimo|dernier) (servicio|service)|\bserviced\b"),
    ("last_flush", r"\b(prev(ious)?|prior) (service|svc|pm|flush|visit|maint\w*)|\bgewartet\b|\bgereinigt\b"),
    ("last_flush", r"\b(gespult|spulung|gespoeld|rince|limpiado|pulito)\b"),
    (
        "last_flush",
        r"\bdetart|ontkalk|limpieza|pulizia|\b(derniere?|ultim[ao]|laatste|letzter?) "
        r"(visite|revision|visita|beurt|kd|passage)",
    ),
    ("last_flush", r"^zuletzt$|\blast insp|kundendienst|\bman?tt?o\b"),
    ("last_flush", r"\blast( done| visit| date| time)?$|(?<!\bin )\b(svc|service|pm|maint)$"),
    ("anode", r"anode|anodo|\brods?\b|\bvarilla\b"),
    ("softener", r"soft|entharter|enthartung|adoucisseur|descalcificador|ablandador|ontharder"),
    ("hardness", r"^th\b|^grad$"),
    ("hardness", r"\b(wtr|water|h2o) (hd|hrd)\b|\bgr gal\b|\bhard|grain|harte|durete|durezz?a|hardheid|\bkalk\b"),
    ("pressure", r"\b(incoming|inlet|mains|static|house|wtr|water) pr(ess)?\b"),
    ("pressure", r"\b(psi|prv|bar|kpa|presion|static)\b|\bpress|druck"),
    (
        "setpoint",
        r"^deg(rees)?( f| c)?$|"
        r"\b(temp|set(point| at)?|t?stat|thermostat)\b|temperatu|consigne|\w*temp$|\bsoll\b|\bset ?point",
    ),
    (
        "installed",
        r"^(in|in use|there|here) since$|^(in betrieb )?seit$|^when (in|new|fitted|put in)$|"
        r"instal|\binst\b|\bput in|in service|\b(year|yr|age|built|annee|ano|anno|old)\b",
    ),
    (
        "installed",
        r"^vintage$|^ez$|"
        r"\bcommissioned\b|\bcomm(issioning)? date\b|baujahr|bouwjaar|einbau|inbetrieb|\bfitted\b|\bmade\b",
    ),
    ("installed", r"\b(alter|leeftijd|edad)\b|^mes$|mise en service|\bpose\b|eingebaut|geplaatst|plaatsing|messa in"),
    (
        "installed",
        r"herst\w* ?(dat|jahr)|\b(bau|fabr\w*)? ?jahr$|\bbj$|"
        r"\b(mfg|mfd|manufactured|dom|ibn|montiert|new (in|since)|neu seit)\b",
    ),
    (
        "size",
        r"\b(size|capacit|capacidad|cap|volum|\w*inhalt|inhoud|contenance|litrage|liter|litres|lt\b|lt[rs]s?|storage\b|lit[rt][oi]s?|galones)",
    ),
    (
        "location",
        r"^bat(iment)?\b|\bappt\b|\b(loc(?!ality)|where|room|standort|ubicacion|emplacement|ubicazione|lage|wohnung|whg|etage|geschoss|raum|aufstell\w*|einbauort|position|sited)|^wo$",
    ),
    ("address", r"\b(loc|location|where|standort)\b"),
    (
        "kind",
        r"\b(type|fuel|kind|appareil|apparecchio|tipo|wh|hws|toestel|appliance|equip(e?ment)?|equipo|aparato)\b|gerat|"
        r"\bproduction (d )?(ecs|eau)|\b(cylinder|boiler) ?typ\b|^(hot water )?cylinder$",
    ),
    ("kind", r"\b(asset|equip\w*|unit) desc"),
    ("kind", r"\b(heater|htr|unit|asset|system)\b|^what$|^(vent|flue)( type|ing)?$"),
    ("people", r"^pers$|people|persons|personen|occup|household"),
    ("well", r"\bwell|water (source|src|type|supply|test)|brunnen|^(water|wasser|eau|agua|h2o)$"),
    ("note", r"note|remark|comment|bemerk|notiz|memo|remarque|observa|opmerking|commentaire|anmerk|hinweis|\bnotas?\b"),
    ("hardness", r"\b(gpg|ppm|dh|fh|mmol)\b"),
    ("size", r"\b(gals?|gallons|l|ltr)\b|how big|gro(ss|e?ss)e|\bgroesse\b"),
    ("kind", r"\btank(less)?\b"),
    ("setpoint", r"\b(c|f)$|^t$"),
    ("town", r"^locality$"),
)
"""What a name of such a list is like, where it is none of those; of several the first is the likeliest."""
IN_LITRES = re.compile(
    r"\b(kunde\w*|strasse|anlage|hersteller|bau ?jahr|wartung|bemerkung\w*|adresse|nom|ville|rue|marque|annee|consigne|"
    r"detartrage|entretien|cliente|calle|ciudad|marca|indirizzo|citta|klant|straat|plaats|onderhoud)\b"
)
"""Names of columns in tongues in which no tank is told in gallons."""
HARDNESS_OF_A_TONGUE = (
    (
        "\u00b0dh",
        re.compile(r"\b(kunde\w*|strasse|hersteller|bau ?jahr|bj|wartung|bemerkung\w*|anschrift|ort|inhalt|mieter)\b"),
    ),
    ("\u00b0fh", re.compile(r"\b(nom|ville|rue|marque|annee|detartrage|entretien|commune|appareil)\b")),
)
"""Names of columns by the degree in which water is told in that tongue, where no cell says another."""
UNITS = {
    "gallon": "gal", "gallons": "gal", "litre": "l", "litres": "l", "liter": "l", "litros": "l", "litri": "l",
    "inch": "in", "inches": "in", "f": "°f", "mg": "mg/l", "mmol": "mmol/l", "grains": "gpg", "grain": "gpg",
    "th": "°fh", "clark": "°clark", "inhalt": "l", "inhoud": "l", "contenance": "l", "capienza": "l", "volumen": "l",
    "litrage": "l", "ltr": "l", "ltrs": "l", "lts": "l", "lt": "l", "gals": "gal", "usg": "gal", "cm2": "bar",
    "btu": "kbtu/h", "btuh": "kbtu/h", "mbh": "kbtu/h", "old": "age", "alter": "age", "leeftijd": "age", "edad": "age",
}  # fmt: skip
"""Words in a column's name that say its unit."""
UNIT_WORDS = {"l", "gal", "mm", "cm", "in", "c", "f", "kpa", "psi", "bar", "kw", "gpg", "ppm", "dh", "fh", *UNITS}
"""All of those, and the units themselves."""
NAME_AND_ADDRESS = re.compile(
    r"(name|customer|client|kunde)\s*([/&,+]|and|und)\s*(addr|adress|anschrift|site|location|premises)"
)
"""A column of names with the address beside them; "Customer address" has the address alone."""
VALUES = (
    ("phone", re.compile(r"\+?[\d()./ -]{7,18}(?<!\d{4}-\d\d-\d\d)(?<!\d/\d{4})")),
    ("postcode", re.compile(r"\d{5}(-\d{4})?|[A-Z]{1,2}\d{1,2} \d[A-Z]{2}")),
    ("installed", re.compile(r"~?(19[5-9]|20[0-4])\d\??")),
    ("pressure", re.compile(r"\d{2,3} ?(#|psi|lbs\.?)", re.IGNORECASE)),
    ("size", re.compile(r"(2|6|1\d|20|[3-9]\d|1[0-2]\d)( ?(g|gal|l)\.?)?", re.IGNORECASE)),
    ("last_flush", re.compile(r"\d{4}-\d\d-\d\d|\d{1,2}[/.-]\d{1,2}[/.-]\d{2,4}")),
    ("address", re.compile(r"\d+[a-z]? [^\W\d].*", re.IGNORECASE)),
)
"""What stands in a column that has no name at all; a day beside a year of installation is that of a service."""
