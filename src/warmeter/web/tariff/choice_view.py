"""Which tariff, as a page shows it: the year on each, the hours that decide, the best one line by line."""

from dataclasses import dataclass
from decimal import Decimal

from warmeter.core.home.document import Home
from warmeter.core.tariff.tariff_comparison import TariffVerdict, TariffYear
from warmeter.service.tariffs.choice import TariffChoice
from warmeter.web import format as show
from warmeter.web.strip.draw import Drawing, Mark
from warmeter.web.tariff.bill_view import amount_words, price_words
from warmeter.web.tariff.rate_words import dates_words

BAR_WIDTH, BAR_HEIGHT = 240, 22
TIE_SHARE = 0.01
LEAST_FACTOR, MOST_FACTOR = 0.3, 3.0  # beyond, the home would be another one


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceRow:
    """A tariff with its year."""

    id: str
    name: str
    dates: str
    total: str
    planned: str
    more: str
    is_best: bool
    is_now: bool
    bar: Drawing | None
    why_not: str


@dataclass(frozen=True, slots=True, kw_only=True)
class YearLine:
    """A line of the best tariff's year, its months added up."""

    name: str
    working: str
    amount: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceView:
    """The comparison."""

    stretch: str
    rows: list[ChoiceRow]
    sentences: list[str]
    axis: Drawing | None
    best: str
    lines: list[YearLine]
    total: str


def choice_view(choice: TariffChoice, home: Home, now_id: str) -> ChoiceView:
    """Return a comparison in words, cheapest first."""
    ranked = sorted(choice.years, key=lambda y: (y.total is None, y.total or Decimal(0)))
    known = [year for year in ranked if year.total is not None]
    top = max((year.high for year in known), default=1.0)
    low = min((year.low for year in known), default=0.0) * 0.9
    best = known[0] if known else None
    rows = [_row(year, choice, home, best, low, top, now_id) for year in ranked]
    first = choice.first_month
    stretch = f"{choice.months} month{'s' * (choice.months != 1)} from {first:%B %Y}"
    return ChoiceView(
        stretch=stretch,
        rows=rows,
        sentences=[*([] if choice.verdict is None else _sentences(choice.verdict, home)), *_as_planned(choice, best)],
        axis=None if best is None else _axis(low, top),
        best=best.tariff.name if best else "",
        lines=[] if best is None else _year_lines(best),
        total="" if best is None or best.total is None else amount_words(best.total, best.tariff.currency),
    )


def _as_planned(choice: TariffChoice, best: TariffYear | None) -> list[str]:
    """Return what moving runs would have changed, in sentences."""
    if not choice.planned:
        return ["As planned is not known: no run of an appliance that may be moved was logged."]
    most = max(choice.planned.values(), key=lambda each: each.moved)
    names = ", ".join(choice.machines)
    sentences = [
        f"As planned: {most.movable} logged runs of {names}, each within its own day, outside of quiet hours, at its "
        f"cheapest start; up to {most.moved} of them elsewhere than they were. Rooms, water and cars stay as they were."
    ]
    totals = {key: each.year.total for key, each in choice.planned.items() if each.year.total is not None}
    least = min(totals, key=lambda key: totals[key], default="")
    if best is not None and least and least != best.tariff.id:
        name = next(year.tariff.name for year in choice.years if year.tariff.id == least)
        sentences.append(f"Planned so, {name} would be the least.")
    return sentences


def _row(
    year: TariffYear, choice: TariffChoice, home: Home, best: TariffYear | None, low: float, top: float, now_id: str
) -> ChoiceRow:
    tariff = year.tariff
    more = ""
    if year.total is not None and best is not None and best.total is not None and year is not best:
        more = show.money(year.total - best.total, tariff.currency, is_signed=True)
    return ChoiceRow(
        id=tariff.id,
        name=tariff.name,
        dates="offer" if tariff.is_offer else dates_words(tariff.valid_from, tariff.valid_to, home.country),
        total="" if year.total is None else show.money(year.total, tariff.currency),
        planned=_planned_total(choice, year),
        more=more,
        is_best=year is best,
        is_now=tariff.id == now_id,
        bar=None if year.total is None else _bar(year, low, top),
        why_not=year.why_not,
    )


def _planned_total(choice: TariffChoice, year: TariffYear) -> str:
    planned = choice.planned.get(year.tariff.id)
    total = None if planned is None else planned.year.total
    return show.money(total, year.tariff.currency)


def _bar(year: TariffYear, low: float, top: float) -> Drawing:
    def x(value: float) -> float:
        return 6 + (BAR_WIDTH - 12) * (value - low) / max(top - low, 1e-9)

    middle = float(year.total or 0)
    y = BAR_HEIGHT / 2
    words = f"{year.tariff.name}: {middle:.0f}; a fifth less or more use: {year.low:.0f} to {year.high:.0f}"
    marks = [
        Mark("path", {"class": "wm-hairline", "d": f"M6 {y}H{BAR_WIDTH - 6}"}),
        Mark("path", {"class": "wm-choice-bar", "d": f"M{x(year.low):.1f} {y}H{x(year.high):.1f}"}),
        Mark("circle", {"class": "wm-choice-dot", "cx": f"{x(middle):.1f}", "cy": f"{y}", "r": "4"}),
    ]
    return Drawing(id=f"choice-{year.tariff.id}", title=words, width=BAR_WIDTH, height=BAR_HEIGHT, marks=marks)


def _axis(low: float, top: float) -> Drawing:
    """Return the numbers of the bars' axis."""
    marks = [
        Mark(
            "text",
            {"class": f"wm-ax {css}", "x": f"{6 + (BAR_WIDTH - 12) * share:.0f}", "y": "12"},
            show.number(low + (top - low) * share, 0),
        )
        for share, css in ((0.0, ""), (0.5, "wm-mid"), (1.0, "wm-end"))
    ]
    return Drawing(id="choice-axis", title="The bars' axis", width=BAR_WIDTH, height=16, marks=marks)


def _sentences(verdict: TariffVerdict, home: Home) -> list[str]:
    best, other = home.tariff(verdict.best), home.tariff(verdict.other)
    currency = best.currency
    is_tie = verdict.price_share < TIE_SHARE
    found = [
        f"{best.name} costs {show.money(verdict.lead, currency, 0)} less than {other.name}"
        + (": a tie, less than a hundredth of the year." if is_tie else ".")
    ]
    for hours in verdict.hours:
        season = "from October to March" if hours.is_winter else "from April to September"
        word = "dearer" if hours.more > 0 else "cheaper"
        found.append(
            f"{show.number(hours.kwh, 0)} kWh between {hours.from_hour:02d} and {hours.to_hour:02d} h {season}: "
            f"{other.name} {show.money(abs(hours.more), currency, 0)} {word}."
        )
    found.append(
        f"It stays so until {best.name} grows dearer by {show.number(100 * verdict.price_share, 1)} %"
        + (
            ""
            if verdict.load_factor is None or not LEAST_FACTOR <= verdict.load_factor <= MOST_FACTOR
            else f", or all use is {show.number(verdict.load_factor, 2)} times what it was"
        )
        + "."
    )
    return found


def _year_lines(year: TariffYear) -> list[YearLine]:
    currency = year.tariff.currency
    units: dict[tuple[str, str, str], Decimal] = {}
    amounts: dict[tuple[str, str, str], Decimal] = {}
    for month in year.months:
        for line in month.bill.lines if month.bill is not None else ():
            if line.is_within:
                continue
            key = line.kind, line.name, line.unit
            units[key] = units.get(key, Decimal(0)) + line.units
            amounts[key] = amounts.get(key, Decimal(0)) + line.amount
    return [
        YearLine(
            name=f"{'Network, ' if kind == 'network' else ''}{name}",
            working=_working(kind, units[kind, name, unit], unit, amounts[kind, name, unit], currency),
            amount=amount_words(amounts[kind, name, unit], currency),
        )
        for kind, name, unit in units
    ]


def _working(kind: str, units: Decimal, unit: str, amount: Decimal, currency: str) -> str:
    if kind == "tax":
        return f"on {amount_words(units, currency)}"
    mean = round(amount / units, 4) if units else Decimal(0)
    return f"{show.number(float(units), 1 if unit == 'kW' else 0)} {unit} × {price_words(mean, currency, unit)}"
