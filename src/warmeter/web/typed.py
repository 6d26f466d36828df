"""Numbers, times and money as people write them: 1,5 · 6' 4" · 1.5 kW · 20 min · 68 F · 1 pm · 5 c."""

import re
from decimal import Decimal, InvalidOperation

from warmeter.core.units import (
    FEET_FACTORS,
    METRIC,
    MIN_PER_DAY,
    TYPED_UNITS,
    TemperatureUnit,
    Units,
    celsius_from,
    kelvin_from,
)
from warmeter.core.wording import MINUS, THIN

_NUMBER = re.compile(r"[-+]?\d(?:[\d.,]*\d)?")
_AMONG_NUMBERS = re.compile(r"([-+]?\d(?:[\d.,]*\d)?)\s*([^\d\s+-]*)\s*")
_GROUPS = re.compile(r"(?<=\d) (?=\d{3}(?!\d))")
_CLOCK = re.compile(r"(\d{1,2})(?:\s*[:.h]\s*(\d{2}))?\s*(am|pm|a\.m\.|p\.m\.|h)?")
_WORDS = {"noon": 720, "midday": 720, "midnight": 0}
_CENTS = ("c", "ct", "cent", "cents", "p", "pence", "¢", "øre", "öre")
_SIGNS = "£€$¥"


def tidy(text: str) -> str:
    """Return a text with plain minus, quotes and spaces."""
    for old, new in ((MINUS, "-"), ("\u2013", "-"), (THIN, ""), ("\u202f", ""), ("\u00a0", " "), ("\u2032", "'")):
        text = text.replace(old, new)
    return text.replace("\u2019", "'").replace("\u2033", '"').replace("\u201d", '"').replace("''", '"').strip()


def plain_decimal(text: str) -> str:
    """Return a number with a point for its decimals and nothing between its thousands.

    Raises
    ------
    ValueError
        If it is no number, or could be two: 1,200 is a thousand to some and a little over one to others.
    """
    plain = tidy(text).replace(" ", "")
    if not _NUMBER.fullmatch(plain):
        raise ValueError("Write a number")
    points, commas = plain.count("."), plain.count(",")
    if points and commas:
        decimal = max(".", ",", key=plain.rfind)
        other = "," if decimal == "." else "."
        if plain.count(decimal) > 1 or not _is_grouped(plain.split(decimal)[0], other):
            raise ValueError("Write a number")
        return plain.replace(other, "").replace(decimal, ".")
    sign = "." if points else ","
    if max(points, commas) > 1:
        if not _is_grouped(plain, sign):
            raise ValueError("Write a number")
        return plain.replace(sign, "")
    whole, _, rest = plain.partition(",")
    if commas and len(rest) == 3 and whole.lstrip("+-") not in ("", "0"):
        raise ValueError(f"Write {whole}{rest} or {whole}.{rest}: a comma can mean either here")
    return plain.replace(",", ".")


def _is_grouped(text: str, separator: str) -> bool:
    first, *groups = text.lstrip("+-").split(separator)
    return 1 <= len(first) <= 3 and all(len(group) == 3 for group in groups)


def parse_number(text: str) -> float:
    """Return a typed number; decimal comma and point are understood (``ValueError`` else)."""
    return float(plain_decimal(text))


def parse_quantity(text: str, unit: str, units: Units = METRIC, *, is_difference: bool = False) -> float:
    """Return a typed number in its stored unit; a bare one is in the home's unit for it.

    Several parts add up, such as ``6' 4"`` or ``1 h 20 min``.

    Raises
    ------
    ValueError
        If it cannot be read; the sentence says what could.
    """
    plain = _GROUPS.sub("", tidy(text).lower().replace("sq ft", "sqft").replace("sq m", "sqm"))
    if unit == "°C" and not is_difference:
        return _celsius(plain, units.temperature)
    stored = "K" if unit == "°C" else unit
    parts = _AMONG_NUMBERS.findall(plain)
    if not parts or _AMONG_NUMBERS.sub("", plain):
        raise ValueError("Write a number")
    if len(parts) == 1 and not parts[0][1]:
        value = parse_number(parts[0][0])
        if stored == "K":
            return kelvin_from(value, units.temperature)
        return value * FEET_FACTORS.get(stored, 1.0) if units.length == "ft" else value
    factors, total, last = {stored.lower(): 1.0} | TYPED_UNITS.get(stored, {}), 0.0, ""
    for number, word in parts:
        # 5' 10 and 1 h 20: what follows feet is inches, and hours minutes.
        known = word.rstrip(".") or {"'": '"', "ft": "in", "h": "min"}.get(last, "")
        if known not in factors:
            wanted = f", in {stored}" if stored else ""
            raise ValueError(f"Write a number{wanted}; {word or number!r} is not understood here")
        value = parse_number(number)
        total += value * factors[known]
        last = known
    return total


def _celsius(plain: str, unit: TemperatureUnit) -> float:
    match = _AMONG_NUMBERS.fullmatch(plain)
    word = match.group(2).removeprefix("°") if match else ""
    if match is None or word not in ("", "c", "f", "k"):
        raise ValueError("Write a temperature such as 20.5" if unit == "C" else "Write a temperature such as 68")
    if word == "k":
        raise ValueError("Write it in °C or °F")
    return celsius_from(parse_number(match.group(1)), "C" if word == "c" else "F" if word == "f" else unit)


def parse_clock(text: str) -> int:
    """Return the minute of a typed time such as 6:45, 06.45, 7, 1 pm or noon; 24:00 is 1440 (``ValueError`` else)."""
    plain = tidy(text).lower()
    if plain in _WORDS:
        return _WORDS[plain]
    match = _CLOCK.fullmatch(plain)
    if match is None:
        raise ValueError("Write a time such as 06:45 or 6:45 am")
    hour, minute = int(match.group(1)), int(match.group(2) or 0)
    half = (match.group(3) or "")[:1]
    if half in ("a", "p"):
        if not 1 <= hour <= 12:
            raise ValueError("Write a time such as 06:45 or 6:45 am")
        hour = hour % 12 + (12 if half == "p" else 0)
    if minute > 59 or 60 * hour + minute > MIN_PER_DAY:
        raise ValueError("Write a time such as 06:45 or 6:45 am")
    return 60 * hour + minute


def parse_amount(text: str) -> Decimal:
    """Return typed money, cents as hundredths: 0.268, 0,268, £0.27, 26.8 p (``ValueError`` else)."""
    plain = tidy(text).lower().strip(_SIGNS + " ").removesuffix("/kwh").strip(_SIGNS + " ")
    cents = next((word for word in sorted(_CENTS, key=len, reverse=True) if plain.endswith(word)), "")
    try:
        # A price below one has three decimals as often as not: a comma before them is no thousand.
        number = plain.removesuffix(cents).strip()
        value = Decimal(
            number.replace(",", ".") if number.count(",") == 1 and "." not in number else plain_decimal(number)
        )
    except (InvalidOperation, ValueError) as error:
        raise ValueError("Write a price such as 0.268") from error
    if not value.is_finite():
        raise ValueError("Write a price such as 0.268")
    return value / 100 if cents else value
