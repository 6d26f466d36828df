"""A year of prices as a field: days along, hours up, stronger is dearer; holes and hours claimed twice stand out."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

from warmeter.core.home.tariffs import RATE_DAYS, Tariff
from warmeter.core.tariff.bill import tariff_of_day
from warmeter.core.tariff.price_days import PLACE_OF_DAY, PriceStep, price_days, price_of_step
from warmeter.core.tariff.tariff_findings import TariffFinding
from warmeter.core.units import MIN_PER_DAY
from warmeter.web import format as show
from warmeter.web.strip.draw import Drawing, Mark
from warmeter.web.tariff.rate_words import MONTH_WORDS

HEIGHT, AXIS, LEFT, RIGHT = 96, 20, 128, 88
DAYS = 365
LEAST_OPACITY, MOST_OPACITY = 0.12, 0.8
LABEL_PX, LABEL_HEIGHT = 30, 15
HOLIDAY = RATE_DAYS.index("holiday")


@dataclass(slots=True)
class _Field:
    """Minutes of the day that cost the same over days on end: from which place on, up to which."""

    from_min: int
    to_min: int
    price: Decimal | None
    first: int
    last: int


def price_year(
    tariffs: Sequence[Tariff], begin: date, today: date, width: int, findings: Sequence[tuple[str, TariffFinding]]
) -> Drawing:
    """Return the year from a date on under the tariffs of a carrier, with the letters of findings at their places."""
    plot = max(120, width - LEFT - RIGHT)
    per_day = plot / DAYS
    fields = _fields(tariffs, begin)
    known = sorted({field.price for field in fields if field.price is not None})
    low, high = (known[0], known[-1]) if known else (Decimal(0), Decimal(1))
    marks = list(_frame(begin, per_day, width))
    currency = tariffs[-1].currency if tariffs else ""
    for field in fields:
        marks += _field_marks(field, per_day, low, high, currency)
    marks += _letters(findings, begin, per_day)
    if 0 <= (today - begin).days < DAYS:
        x = f"{LEFT + (today - begin).days * per_day:.1f}"
        marks.append(Mark("path", {"class": "wm-xh", "d": f"M{x} {AXIS}V{AXIS + HEIGHT}"}))
    days = sum(tariff_of_day(tariffs, begin + timedelta(days=k)) is not None for k in range(DAYS))
    x = f"{width - RIGHT + 12}"
    for row, (number, word) in enumerate(((days, "days"), (DAYS - days, "none"))):
        if number:
            css = "wm-n" if row == 0 else "wm-n wm-warned"
            marks.append(Mark("text", {"class": css, "x": x, "y": f"{AXIS + 20 + 18 * row}"}, f"{number} {word}"))
    return Drawing(
        id="year", title="The price of each hour of the year", width=width, height=AXIS + HEIGHT + 1, marks=marks
    )


def _fields(tariffs: Sequence[Tariff], begin: date) -> list[_Field]:
    """Return the fields of a year, each as wide as days on end let it be."""
    done: list[_Field] = []
    growing: dict[tuple[int, int, Decimal | None], _Field] = {}
    for place in range(DAYS):
        day = begin + timedelta(days=place)
        now: dict[tuple[int, int, Decimal | None], _Field] = {}
        for from_min, to_min, price in _day_prices(tariffs, day):
            key = from_min, to_min, price
            field = growing.pop(key, None) or _Field(from_min, to_min, price, place, place)
            field.last = place
            now[key] = field
        done += growing.values()
        growing = now
    return [*done, *growing.values()]


def _day_prices(tariffs: Sequence[Tariff], day: date) -> list[tuple[int, int, Decimal | None]]:
    tariff = tariff_of_day(tariffs, day)
    if tariff is None:
        return [(0, MIN_PER_DAY, None)]
    merged: list[tuple[int, int, Decimal | None]] = []
    for step in _steps_of(tariff, day):
        price = price_of_step(tariff, step)
        if merged and merged[-1][2] == price:
            merged[-1] = (merged[-1][0], step.to_min, price)
        else:
            merged.append((step.from_min, step.to_min, price))
    return merged


def _steps_of(tariff: Tariff, day: date) -> tuple[PriceStep, ...]:
    kind = RATE_DAYS[HOLIDAY] if day in tariff.holidays else RATE_DAYS[day.weekday()]
    place = PLACE_OF_DAY[100 * day.month + day.day]
    dated = any(rate.valid_from or rate.valid_to for rate in tariff.rates)
    for each in price_days(tariff.rates, day if dated else None):
        if kind in each.days and any(_holds(first, last, place) for first, last in each.spans):
            return each.steps
    return ()


def _holds(first: int, last: int, place: int) -> bool:
    a, b = PLACE_OF_DAY[first], PLACE_OF_DAY[last]
    return a <= place <= b if a <= b else place >= a or place <= b


def _frame(begin: date, per_day: float, width: int) -> list[Mark]:
    marks = [Mark("path", {"class": "wm-edge", "d": f"M0 {AXIS - 0.5}H{width}"})]
    for place in range(DAYS):
        day = begin + timedelta(days=place)
        if day.day == 1 and place + 20 < DAYS:
            x = LEFT + place * per_day
            marks.append(Mark("path", {"class": "wm-tick", "d": f"M{x:.1f} {AXIS - 5}V{AXIS}"}))
            marks.append(Mark("text", {"class": "wm-ax", "x": f"{x + 4:.1f}", "y": "13"}, MONTH_WORDS[day.month - 1]))
    marks.append(Mark("text", {"class": "wm-name", "x": "0", "y": f"{AXIS + 14}"}, "Year"))
    for row, word in enumerate(("hour by day,", "stronger, dearer")):
        marks.append(Mark("text", {"class": "wm-soft", "x": "0", "y": f"{AXIS + 30 + 15 * row}"}, word))
    for hour in (6, 16, 20):
        y = _y(60 * hour)
        marks.append(Mark("text", {"class": "wm-ax wm-end", "x": f"{LEFT - 6}", "y": f"{y + 4:.1f}"}, f"{hour:02d}"))
    return marks


def _y(minute: int) -> float:
    """Return the height of a minute: the night below, as a day rises."""
    return AXIS + HEIGHT * (1 - minute / MIN_PER_DAY)


def _field_marks(field: _Field, per_day: float, low: Decimal, high: Decimal, currency: str) -> list[Mark]:
    x, wide = LEFT + field.first * per_day, (field.last - field.first + 1) * per_day
    y, tall = _y(field.to_min), _y(field.from_min) - _y(field.to_min)
    box = {"x": f"{x:.2f}", "y": f"{y:.1f}", "width": f"{wide:.2f}", "height": f"{tall:.1f}"}
    has_room = wide >= LABEL_PX and tall >= LABEL_HEIGHT
    at = {"x": f"{x + 5:.1f}", "y": f"{y + tall / 2 + 4:.1f}"}
    if field.price is None:
        marks = [Mark("rect", {"class": "wm-rate-hole", **box})]
        words = "a hole" if field.to_min - field.from_min < MIN_PER_DAY else "no tariff"
        return [*marks, Mark("text", {"class": "wm-rate-hole-word", **at}, words)] if wide >= LABEL_PX * 1.6 else marks
    share = float((field.price - low) / (high - low)) if high > low else 0.0
    opacity = f"{LEAST_OPACITY + (MOST_OPACITY - LEAST_OPACITY) * share:.2f}"
    label = show.small_money(float(field.price), currency)
    marks = [Mark("rect", {"class": "wm-dear", "fill-opacity": opacity, **box}, title=label)]
    return [*marks, Mark("text", {"class": "wm-n wm-halo", **at}, label)] if has_room else marks


def _letters(findings: Sequence[tuple[str, TariffFinding]], begin: date, per_day: float) -> list[Mark]:
    marks = []
    for letter, finding in findings:
        if finding.first is None or finding.last is None:
            continue
        first, last = ((day - begin).days for day in (finding.first, finding.last))
        if last < 0 or first >= DAYS:
            continue
        x = LEFT + max(0, first) * per_day
        y, tall = _y(finding.to_min), _y(finding.from_min) - _y(finding.to_min)
        wide = max(2.0, (min(last, DAYS - 1) - max(0, first) + 1) * per_day)
        if finding.kind == "overlap":
            box = {"x": f"{x:.1f}", "y": f"{y:.1f}", "width": f"{wide:.1f}", "height": f"{tall:.1f}"}
            marks.append(Mark("rect", {"class": "wm-rate-twice", **box}))
        place = {"x": f"{max(LEFT, x - 16):.1f}", "y": f"{y - 2 if y > AXIS + 14 else y + 2:.1f}"}
        marks.append(Mark("rect", {"class": "wm-letter-box", "width": "14", "height": "14", "rx": "2", **place}))
        text = {"x": f"{max(LEFT, x - 16) + 7:.1f}", "y": f"{(y - 2 if y > AXIS + 14 else y + 2) + 11:.1f}"}
        marks.append(Mark("text", {"class": "wm-letter wm-mid", **text}, letter))
    return marks
