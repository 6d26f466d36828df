"""What the heading of a column says: which unit, which measure, and which words nobody can place."""

import re
from dataclasses import dataclass

CURRENCIES = {
    "£": "GBP",
    "€": "EUR",
    "$": "USD",
    **{code.lower(): code for code in ("GBP", "EUR", "USD", "CHF", "SEK", "NOK", "DKK", "PLN", "CZK", "HUF", "RON")},
    **{code.lower(): code for code in ("BGN", "CAD", "AUD", "NZD", "JPY", "INR", "ZAR", "TRY", "ISK", "BRL")},
}
# Units as loggers write them, lower case, with the one that is meant.
_UNITS: dict[str, str] = {
    **dict.fromkeys(("°c", "℃", "degc", "deg c", "degrees c", "celsius"), "°C"),
    **dict.fromkeys(("°f", "℉", "degf", "deg f", "degrees f", "fahrenheit"), "°F"),
    **dict.fromkeys(("kelvin",), "K"),
    **dict.fromkeys(("watt", "watts"), "W"),
    **dict.fromkeys(("kw", "kilowatt", "kilowatts"), "kW"),
    "wh": "Wh",
    "kwh": "kWh",
    "mwh": "MWh",
    "mj": "MJ",
    **dict.fromkeys(("%", "percent", "pct"), "%"),
    "ppm": "ppm",
    **dict.fromkeys(("lx", "lux"), "lx"),
    **dict.fromkeys(("w/m2", "w/m²"), "W/m²"),
    **dict.fromkeys(("dbm", "db"), "dBm"),
    "hpa": "hPa",
    "mbar": "mbar",
    "bar": "bar",
    "kpa": "kPa",
    "psi": "psi",
    "inhg": "inHg",
    **dict.fromkeys(("l/min", "lpm"), "l/min"),
    "l/h": "l/h",
    **dict.fromkeys(("m³/h", "m3/h"), "m³/h"),
    **dict.fromkeys(("gpm", "gal/min"), "gal/min"),
    **dict.fromkeys(("km", "kilometres", "kilometers"), "km"),
    **dict.fromkeys(("mi", "miles"), "mi"),
    **dict.fromkeys(("metres", "meters"), "m"),
    **{f"{money}/{energy}": f"/{energy[0]}Wh".replace("/m", "/M") for money in CURRENCIES for energy in ("kwh", "mwh")},
    **dict.fromkeys(("p/kwh", "pence/kwh"), "p/kWh"),
    **dict.fromkeys(("c/kwh", "ct/kwh", "cent/kwh", "cents/kwh", "öre/kwh", "øre/kwh"), "c/kWh"),
    "/kwh": "/kWh",
    "/mwh": "/MWh",
}
# One letter is a unit only at the end, or in brackets.
_LETTERS = {"c": "°C", "f": "°F", "k": "K", "w": "W", "j": "J"}
# Units of what cannot be read in: a column with one of them is left open.
_FOREIGN = frozenset(
    {"v", "mv", "volt", "volts", "a", "ma", "amp", "amps", "va", "var", "hz", "m³", "m3", "ft3", "ft³", "l", "litre"}
    | {"litres", "gal", "gallons", "therm", "therms", "btu", "btu/h", "rpm", "m/s", "km/h", "mph", "mm"}
    | {"wh/m2", "kwh/m2", "€", "£", "$", "eur", "gbp", "usd", "cost", "µg/m³", "ug/m3", "db(a)", "g/m3", "g/m³"}
)

# In the order in which they are looked for: what a longer phrase says is not said again by its words.
MEASURES: tuple[tuple[str, str], ...] = (
    ("market_price", r"(?:spot|market|day ahead|energy|electricity) price|price|spot|strompreis|preis"),
    ("storey", r"(?:ground|first|second|third|upper|lower|top|1st|2nd|3rd) floor"),
    ("circuit", r"(?:flow|supply|return) (?:water )?temp\w*|vorlauf\w*|rücklauf\w*|ruecklauf\w*|delta ?t"),
    ("feels", r"feels like|apparent|dew ?point|taupunkt|heat index|wind chill|absolute humidity"),
    ("battery", r"battery(?: level| state| charge)?|batt?|akku\w*|batterie\w*"),
    ("radio_strength", r"rssi|signal(?: strength| level)?|radio(?: strength)?"),
    ("link", r"link ?quality|lqi"),
    ("water_temperature", r"(?:hot )?water temp\w*|tank temp\w*|cylinder temp\w*|tub temp\w*"),
    ("setpoint", r"set ?points?(?: temp\w*)?|set temp\w*|target(?: temp\w*)?|desired(?: temp\w*)?|soll\w*|consigne"),
    ("valve_opening", r"valve(?: position| opening| open)?|(?:heating |heat )?demand|opening(?: degree)?|ventil\w*"),
    ("blind_position", r"(?:blinds?|shutters?|shades?|jalousie\w*|rollladen)(?: position| down)?|cover position"),
    (
        "sun_forecast_w",
        r"(?:solar|pv|sun|panels?|photovoltaic) (?:power |energy |production |yield )?forecast"
        r"|forecast (?:of |solar |pv )?(?:solar|pv|sun|panels?)(?: power| energy| production| yield)?"
        r"|(?:predicted|expected) (?:solar|pv|sun)(?: power| energy| production| yield)?|pv ?prognose|solarprognose",
    ),
    (
        "sun_power_w",
        r"(?:solar|pv|panel|panels|photovoltaic) (?:power|energy|output|production|yield)|pv|photovolta\w*",
    ),
    ("sun_w_m2", r"(?:solar |global )?(?:ir)?radia(?:nce|tion)|ghi|globalstrahlung|pyranometer"),
    ("floor_temperature", r"floor(?: temp\w*)?|slab(?: temp\w*)?|fußboden\w*|boden\w*"),
    ("co2", r"co ?2|co₂|carbon dioxide|kohlendioxid"),
    ("light", r"lux|illuminance|brightness|light(?: level)?|daylight|helligkeit"),
    ("pressure", r"(?:air |water |barometric )?pressure|barometer|luftdruck"),
    ("water_flow", r"(?:water )?flow(?: rate)?|durchfluss"),
    ("device_mode", r"(?:hvac |system |operating |operation )?mode|modus|betriebsart"),
    ("heating_state", r"(?:hvac |heating |heater |boiler )(?:action|status|state)|action|burner|call for heat"),
    ("is_wet", r"(?:water )?leak\w*|flood\w*|wet"),
    ("is_moving", r"motion|pir|movement|bewegung\w*"),
    ("is_in_bed", r"in bed|mattress|bed(?: occup\w*| presence)?"),
    ("distance_m", r"distance(?: (?:from|to) home)?|entfernung"),
    ("presence", r"presence|occup\w*|somebody|anybody|at home|anwesen\w*|whereabouts"),
    ("is_open", r"window|door|contact|fenster|tür|opened"),
    ("machine_is_on", r"vibrat\w*|is on"),
    ("forecast", r"forecast|vorhersage|predicted"),
    ("outdoor", r"outdoors?|outside|out|exterior|ext|außen|aussen|draußen|weather|ta|oat"),
    ("ambient", r"ambient|ambiance"),
    ("humidity", r"(?:relative )?humid\w*|hum|rh|luftfeuchte?|feuchte|feuchtigkeit"),
    ("counter", r"counted|counter|register|cumulative|lifetime|meter readings?|zählerstand"),
    ("day", r"(?:of )?today|heute|daily"),
    ("export", r"export(?:ed)?|feed ?in|injection|b1|einspeisung|to grid"),
    ("import", r"(?:grid )?import(?:ed)?|usage|consum\w*|grid|mains|meter|e1|bezug|verbrauch|from grid|household"),
    ("heat", r"(?:radiator |heater |heating |heat |thermal )(?:power|output|energy|load)|heat\w*|heiz\w*|chauff\w*|ph"),
    ("radiator", r"radiator\w*|emitter\w*|towel rail"),
    ("electric", r"(?:active |electric\w* )?power|plug|leistung|energy|energie|load|electric\w*"),
    ("temperature", r"temp|temperatur\w*|ti|tmp|thermometer|indoor|inside|room|raum"),
)
_FILLERS = frozenset(
    {"sensor", "value", "reading", "readings", "avg", "average", "mean", "current", "actual", "measured", "last", "raw"}
    | {"the", "of", "in", "my", "home", "house", "air", "level", "payload", "status", "state", "total", "ist", "wert"}
    | {"telemetry", "tele", "climate", "number", "num", "zone", "step", "per", "column", "whole", "deg", "is"}
)
# Units that stand among the words of a topic or behind a phrase, and measure words that are units too.
_CUT = re.compile(r"(?<=[a-zà-ÿ])(?=[A-Z][a-zà-ÿ])")
_BRACKETS = re.compile(r"[(\[]\s*([^()\[\]]{1,12}?)\s*[)\]]")
_WORD = re.compile(r"[^\W_]+|[%°₂€£$]+")


@dataclass(frozen=True, slots=True)
class HeadingWords:
    """What a heading says.

    ``words`` are its words in lower case without its unit; ``unit`` is "" where none is written, ``foreign_unit`` the
    one that measures nothing that can be read in.
    """

    words: tuple[str, ...]
    unit: str
    foreign_unit: str


@dataclass(frozen=True, slots=True)
class Said:
    """What words say once the names in them are taken out: measures in the order of their words, and words left over."""

    measures: tuple[str, ...]
    unplaced: tuple[str, ...]


def words_of(text: str) -> tuple[str, ...]:
    """Return the words of a name or heading, lower case, parted also where a small letter meets a capital.

    Examples
    --------
    >>> words_of("livingRoom_temp-2")
    ('living', 'room', 'temp', '2')
    """
    return tuple(_WORD.findall(_CUT.sub(" ", text).lower()))


def heading_words(heading: str) -> HeadingWords:
    """Return the words and the unit of a heading."""
    rest, unit, foreign = heading, "", ""
    for match in _BRACKETS.finditer(heading):
        inner = match[1].lower()
        if inner in _UNITS or inner in _LETTERS:
            unit, rest = _UNITS.get(inner) or _LETTERS[inner], rest.replace(match[0], " ")
        elif inner in _FOREIGN:
            foreign, rest = match[1], rest.replace(match[0], " ")
    if not unit and not foreign:
        rest, unit, foreign = _written_unit(rest)
    return HeadingWords(words_of(rest), unit, foreign)


def of_both(heading: str, channel: str) -> HeadingWords:
    """Return the words of a heading and of the words that mark a series in its column, the unit of either."""
    first, second = heading_words(heading), heading_words(channel)
    return HeadingWords(
        (*first.words, *second.words), second.unit or first.unit, second.foreign_unit or first.foreign_unit
    )


def unit_named(text: str) -> str:
    """Return the unit that a text is, "" if it is none that can be read in."""
    word = text.strip().lower()
    return _UNITS.get(word) or _LETTERS.get(word) or ""


def _written_unit(text: str) -> tuple[str, str, str]:
    """Return a heading without the unit that stands in it as a word, the unit, and a foreign one."""
    parts = [part for part in re.split(r"[\s_,;:]+", text) if part]
    for k in reversed(range(len(parts))):
        word = parts[k].lower()
        attached = re.search(r"(°[cf]|℃|℉|%)$", word)
        is_last = k == len(parts) - 1 and k > 0
        if word in _UNITS and not (word in ("lux", "bar", "percent") and not is_last):
            return " ".join(parts[:k] + parts[k + 1 :]), _UNITS[word], ""
        if attached:
            parts[k] = parts[k][: attached.start()]
            return " ".join(parts), _UNITS[attached[1]], ""
        if is_last and word in _LETTERS:
            return " ".join(parts[:-1]), _LETTERS[word], ""
        if is_last and word in _FOREIGN:
            return " ".join(parts[:-1]), "", parts[k]
    return text, "", ""


def said_by(words: tuple[str, ...]) -> Said:
    """Return what words say of the measure; "lux" alone is both a measure and its unit."""
    text, found = f" {' '.join(words)} ", []
    for measure, pattern in MEASURES:
        for match in re.finditer(rf"(?<= )(?:{pattern})(?= )", text):
            found.append((match.start(), measure))
            # As many blanks as letters, so that places stay as they are.
            text = text[: match.start()] + " " * len(match[0]) + text[match.end() :]
    unplaced = tuple(word for word in text.split() if word not in _FILLERS)
    return Said(tuple(dict.fromkeys(measure for _, measure in sorted(found))), unplaced)
