"""Numbers, times of day and dates as people write them."""

from datetime import date

MINUS, THIN = "\u2212", "\u2009"
# Countries that write month before day, and year before month.
_MONTH_FIRST, _YEAR_FIRST = {"US"}, {"CA", "CN", "HU", "JP", "KR", "LT", "SE", "TW"}


def number(value: float | None, decimals: int = 0, *, is_signed: bool = False) -> str:
    """Return a number with a real minus and thin spaces between thousands; a dash for None."""
    if value is None:
        return "–"
    text = f"{abs(value):,.{decimals}f}".replace(",", THIN)
    if float(text.replace(THIN, "")) == 0:
        return text
    return (MINUS if value < 0 else ("+" if is_signed else "")) + text


def clock_time(minute: int) -> str:
    """Return a minute of the day as 06:45; 1440 is 24:00."""
    return f"{minute // 60:02d}:{minute % 60:02d}"


def day_long(on: date, country: str) -> str:
    """Return a date as the country writes it, with weekday and month in words."""
    if country in _MONTH_FIRST:
        return f"{on:%a} {on:%b} {on.day}, {on.year}"
    if country in _YEAR_FIRST:
        return f"{on:%a} {on.year} {on:%b} {on.day}"
    return f"{on:%a} {on.day} {on:%b} {on.year}"


def day_short(on: date, country: str) -> str:
    """Return a date in figures as the country writes it."""
    if country in _MONTH_FIRST:
        return f"{on:%m/%d}"
    return f"{on:%m-%d}" if country in _YEAR_FIRST else f"{on:%d/%m}"


def shortened(text: str, letters: int) -> str:
    """Return a text in so many letters at most, a longer one with an ellipsis."""
    return text if len(text) <= letters else f"{text[: max(letters, 2) - 1].rstrip()}…"
