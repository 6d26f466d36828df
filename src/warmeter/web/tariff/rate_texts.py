"""Seasons, tiers and dates as people write them."""

import re
from datetime import date

from warmeter.core.home.tariffs import TierPrice, YearSpan
from warmeter.web.tariff.rate_words import MONTH_ENDS, MONTH_WORDS
from warmeter.web.typed import parse_amount

_TO = re.compile(r"\s*(?:\bto\b|\buntil\b|–|\.\.|(?<=[A-Za-z0-9])\s+-\s+|(?<=[A-Za-z])\s*-\s*(?=[A-Za-z]))\s*")
_DAY_MONTH = re.compile(r"(\d{1,2})\.?\s+([A-Za-z]{3,})|([A-Za-z]{3,})\s+(\d{1,2})")
_TIER = re.compile(r"(?:above|over|from)?\s*([\d.,]+)\s*(?:kwh|m3|m³|l)?\s*[:=]?\s*([-\d.,]+\s*[a-z¢]*)", re.IGNORECASE)


def parse_seasons(text: str) -> tuple[YearSpan, ...]:
    """Return seasons of "1 Oct to 31 Mar", "Oct to Mar", "10-01 to 03-31" or "11-3", several with commas between.

    Raises
    ------
    ValueError
        With what is wrong.
    """
    plain = text.strip().lower()
    if plain in ("", "all year", "year", "always", "1-12"):
        return ()
    return tuple(_parsed_span(part) for part in re.split(r"[,;]", text) if part.strip())


def _parsed_span(part: str) -> YearSpan:
    months = re.fullmatch(r"\s*(\d{1,2})(?:\s*-\s*(\d{1,2}))?\s*", part)
    if months:
        first, last = int(months[1]), int(months[2] or months[1])
        if not (1 <= first <= 12 and 1 <= last <= 12):
            raise ValueError("Months lie between 1 and 12")
        return YearSpan(from_day=f"{first:02d}-01", to_day=f"{last:02d}-{MONTH_ENDS[last - 1]}")
    ends = [end for end in _TO.split(part.strip()) if end]
    if len(ends) > 2 or not ends:
        raise ValueError("Write a season such as 1 Oct to 31 Mar, or Nov to Feb")
    first_day, last_day = _parsed_day(ends[0], is_last=False), _parsed_day(ends[-1], is_last=True)
    return YearSpan(from_day=first_day, to_day=last_day)


def _parsed_day(text: str, *, is_last: bool) -> str:
    plain = text.strip()
    if re.fullmatch(r"\d{2}-\d{2}", plain):
        return plain
    match = _DAY_MONTH.fullmatch(plain)
    name = (match[2] or match[3]) if match else plain
    month = next((k for k, word in enumerate(MONTH_WORDS, 1) if name.lower().startswith(word.lower())), 0)
    if not month or not name.isalpha():
        raise ValueError(f"{plain!r} is no day of a year; write 1 Oct, or Oct")
    if match is None:
        return f"{month:02d}-{MONTH_ENDS[month - 1] if is_last else 1:02d}"
    day = int(match[1] or match[4])
    if not 1 <= day <= MONTH_ENDS[month - 1]:
        raise ValueError(f"{MONTH_WORDS[month - 1]} has no day {day}")
    return f"{month:02d}-{day:02d}"


def parse_tiers(text: str) -> tuple[TierPrice, ...]:
    """Return tiers of "above 300: 0.26; above 600: 0.31"; ``ValueError`` with what is wrong."""
    found = []
    for part in re.split(r";|\band\b|\n", text):
        if part.strip():
            match = _TIER.fullmatch(part.strip())
            if match is None:
                raise ValueError("Write tiers as above 300: 0.26; above 600: 0.31")
            found.append(TierPrice(above=parse_amount(match[1]), price_per_unit=parse_amount(match[2])))
    return tuple(found)


def parse_dates(typed: str) -> tuple[date, ...]:
    """Return dates with commas or lines between; ``ValueError`` names the one that is none."""
    days = []
    for part in typed.replace("\n", ",").split(","):
        if part.strip():
            try:
                days.append(date.fromisoformat(part.strip()))
            except ValueError as error:
                raise ValueError(f"{part.strip()!r} is no date such as 2026-12-25") from error
    return tuple(sorted(set(days)))
