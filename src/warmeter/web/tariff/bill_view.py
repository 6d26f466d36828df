"""A bill as a page shows it: lines with their working, what is missing, the year month by month, a typed bill explained."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import Tariff, TypedBill
from warmeter.core.tariff.bill import Bill, BillLine, LineKind, marginal_prices
from warmeter.core.tariff.bills_of_year import MonthBill
from warmeter.core.tariff.reconcile import BillDifference
from warmeter.core.tariff.taxes import coin_digits
from warmeter.core.timegrid import LocalClock
from warmeter.service.tariffs.bill_shares import OwnSun
from warmeter.web import format as show
from warmeter.web.strip.draw import Drawing, Mark
from warmeter.web.tariff.rate_words import MONTH_WORDS

BAR_HEIGHT, BAR_LEFT, BAR_FOOT, BAR_TOP = 92, 40, 18, 10
BAR_PARTS: tuple[tuple[str, tuple[LineKind, ...]], ...] = (
    ("wm-bill-standing", ("standing",)),
    ("wm-bill-energy", ("energy", "market", "levy")),
    ("wm-bill-network", ("network",)),
    ("wm-bill-demand", ("demand",)),
    ("wm-bill-tax", ("tax",)),
)
KIND_LETTERS: dict[LineKind, str] = {"network": "Network, ", "levy": "Levy, "}


@dataclass(frozen=True, slots=True, kw_only=True)
class BillRow:
    """A line of a bill in words: its name, how it comes about, and its amount."""

    name: str
    working: str
    amount: str
    is_demand: bool = False
    is_within: bool = False
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class BillView:
    """A bill in words."""

    title: str
    energy: str
    rows: list[BillRow]
    taxes: list[BillRow]
    net: str
    total: str
    per_unit: str
    notes: list[str]
    warnings: list[str]


def amount_words(amount: Decimal, currency: str) -> str:
    """Return an amount with the digits of its currency's coins."""
    return show.number(float(amount), coin_digits(currency))


def price_words(price: Decimal, currency: str, unit: str) -> str:
    """Return a price a unit, in the small coin where it is small, with all its digits up to six."""
    if unit in ("kWh", "m³", "L", "kg") and currency in ("GBP", "EUR", "USD") and abs(price) < 10:
        return f"{_plain(price * 100)} {show.small_money_unit(currency)}"
    return show.currency_sign(currency) + _plain(price)


def _plain(number: Decimal) -> str:
    text = f"{round(number, 6).normalize():f}"
    return text.replace("-", show.MINUS)


def _units(line: BillLine, decimals: int = 1) -> str:
    if line.unit == "days":
        return f"{line.units.normalize():f} days"
    decimals = {"kW": 2, "months": 3, "years": 4, "bill": 3}.get(line.unit, decimals)
    return f"{show.number(float(line.units), decimals)} {line.unit}"


def _row(line: BillLine, made: Bill, clock: LocalClock, country: str) -> BillRow:
    name = KIND_LETTERS.get(line.kind, "") + line.name
    if line.above is not None:
        name += f", above {_plain(line.above)} {line.unit}"
    if (line.first, line.last) != (made.first, made.last) and line.kind != "demand":
        name += f", {show.day_short(line.first, country)} to {show.day_short(line.last, country)}"
    note = ""
    if line.kind == "tax":
        return BillRow(
            name=name,
            working=f"{amount_words(line.units, made.currency)} × {_plain((line.price or Decimal(0)) * 100)} %",
            amount=amount_words(line.amount, made.currency),
            is_within=line.is_within,
        )
    price = line.price
    if line.kind == "demand" and line.at_ms:
        top = [clock.local(at) for at in line.at_ms]
        note = ", ".join(f"{show.day_short(at.date(), country)} {at:%H:%M}" for at in top)
        if line.is_least:
            note += "; at least, the readings are longer than its interval"
    if price is None:
        mean = line.amount / line.units if line.units else Decimal(0)
        working = f"{_units(line)} × {price_words(round(mean, 6), made.currency, line.unit)} in the mean"
    else:
        working = f"{_units(line)} × {price_words(price, made.currency, line.unit)}"
    return BillRow(
        name=name,
        working=working,
        amount=amount_words(line.amount, made.currency),
        is_demand=line.kind == "demand",
        note=note,
    )


def bill_view(made: Bill, home: Home, clock: LocalClock, tariff: Tariff | None, sun: OwnSun | None) -> BillView:
    """Return a bill in words."""
    currency, country = made.currency, home.country
    rows = [_row(line, made, clock, country) for line in made.lines if line.kind != "tax"]
    taxes = [_row(line, made, clock, country) for line in made.lines if line.kind == "tax"]
    per_unit = ""
    if made.units:
        per_unit = f"{price_words(round(made.total / made.units, 4), currency, made.unit)} for each {made.unit}"
    notes = [_custom_words(tariff)] if tariff is not None else []
    if made.sold:
        notes.append(f"Sold: {show.number(float(made.sold), 1)} {made.unit}.")
    if sun is not None and sun.made_kwh > 0:
        notes.append(
            f"Of {show.number(sun.made_kwh, 1)} kWh of the sun {'at most ' if sun.is_most else ''}"
            f"{show.number(sun.own_kwh, 1)} were used at home: bought instead, they would have added "
            f"{show.money(sun.saved, currency)}{'; what is sold is not metered' if sun.is_most else ''}."
        )
    for name, price in () if tariff is None else marginal_prices(made, (tariff,)):
        notes.append(f"A {made.unit} less of {name} saves {price_words(price, currency, made.unit)}, before tax.")
    for change in made.conversions:
        notes.append(
            f"Amounts in {change.from_currency} are paid in {change.to_currency} at {_plain(change.rate)} "
            f"{change.from_currency} for one, to its smallest coin, halves up."
        )
    return BillView(
        title=period_words(made.first, made.last, country),
        energy=f"{show.number(float(made.units), 1)} {made.unit}",
        rows=rows,
        taxes=taxes,
        net=amount_words(made.net, currency),
        total=amount_words(made.total, currency),
        per_unit=per_unit,
        notes=notes,
        warnings=_warnings(made),
    )


def period_words(first: date, last: date, country: str) -> str:
    """Return a stretch of days as a month's name, or from a day to another."""
    following = date(first.year + first.month // 12, first.month % 12 + 1, 1)
    if first.day == 1 and (following - last).days == 1:
        return f"{first:%B %Y}"
    return f"{show.day_long(first, country)} to {show.day_long(last, country)}"


def _custom_words(tariff: Tariff) -> str:
    half = "halves up" if tariff.rounding.mode == "half_up" else "halves to even"
    if tariff.rounding.each == "total":
        return f"Lines are not rounded, the sum is, {half}."
    tax = "tax of each line too" if tariff.rounding.each == "line_with_tax" else "tax once, on the sum"
    if not tariff.taxes:
        return f"Each line is rounded to the smallest coin, {half}."
    if tariff.prices_include_tax:
        return f"Each line is rounded to the smallest coin, {half}; tax is held within."
    return f"Each line is rounded to the smallest coin, {half}; {tax}."


def _warnings(made: Bill) -> list[str]:
    found = []
    missing, currency = made.missing, made.currency
    if missing.intervals:
        found.append(
            f"{show.number(missing.intervals)} of {show.number(missing.of)} intervals are missing and in no line. As at "
            f"like hours they would add {show.number(missing.likely_units, 1)} {made.unit}, "
            f"{show.money(missing.likely_cost, currency)}; at most {show.money(missing.most_cost, currency)}."
        )
    if made.spread is not None:
        low = float(made.total) + made.spread.low_cost - made.spread.taken_cost
        high = float(made.total) + made.spread.high_cost - made.spread.taken_cost
        found.append(
            f"{show.number(made.spread.units, 1)} {made.unit} are known only over longer than the prices hold. Spread "
            f"evenly it is as above; it could be from {show.money(low, currency)} to {show.money(high, currency)}."
        )
    if made.unpriced:
        found.append(
            f"{show.number(float(made.unpriced), 1)} {made.unit} have no market price and are in no line: import it."
        )
    return found


def month_bars(months: Sequence[MonthBill], chosen: date, width: int, currency: str) -> Drawing:
    """Return the bills of months as bars of their parts, the one that is looked at marked."""
    totals = [sum((month.of(*kinds) for _, kinds in BAR_PARTS), Decimal(0)) for month in months]
    top = _round_up(max((float(total) for total in totals), default=0.0))
    per = (width - BAR_LEFT) / max(len(months), 1)
    marks = []
    for share in (0.0, 0.5, 1.0):
        y = BAR_TOP + BAR_HEIGHT * (1 - share)
        marks.append(Mark("path", {"class": "wm-grid wm-major", "d": f"M{BAR_LEFT} {y:.1f}H{width}"}))
        at = {"x": f"{BAR_LEFT - 6}", "y": f"{y + 4:.1f}"}
        marks.append(Mark("text", {"class": "wm-ax wm-end", **at}, show.number(top * share)))
    for place, month in enumerate(months):
        x = BAR_LEFT + place * per
        marks += _bar(month, x, per, top, is_chosen=month.first == chosen, currency=currency)
    return Drawing(
        id="months",
        title=f"Bills by month, {show.currency_sign(currency)}: standing charge, energy, network, demand, tax",
        width=width,
        height=BAR_TOP + BAR_HEIGHT + BAR_FOOT,
        marks=marks,
    )


def _bar(month: MonthBill, x: float, per: float, top: float, *, is_chosen: bool, currency: str) -> list[Mark]:
    foot = BAR_TOP + BAR_HEIGHT
    marks = []
    if is_chosen:
        box = {"x": f"{x:.1f}", "y": f"{BAR_TOP}", "width": f"{per:.1f}", "height": f"{BAR_HEIGHT + BAR_FOOT}"}
        marks.append(Mark("rect", {"class": "wm-chosen-month", **box}))
    y = float(foot)
    for css, kinds in BAR_PARTS:
        tall = BAR_HEIGHT * max(0.0, float(month.of(*kinds))) / top
        if tall:
            y -= tall
            box = {"x": f"{x + 2:.1f}", "y": f"{y:.1f}", "width": f"{per - 4:.1f}", "height": f"{tall:.1f}"}
            marks.append(Mark("rect", {"class": css, **box}))
    words = f"{month.first:%B %Y}: "
    words += month.why if month.bill is None else f"{amount_words(month.bill.total, currency)} {currency}"
    place = {"x": f"{x + per / 2:.1f}", "y": f"{foot + 13}"}
    letter = MONTH_WORDS[month.first.month - 1][0]
    marks.append(Mark("text", {"class": f"wm-ax wm-mid{' wm-strong' if is_chosen else ''}", **place}, letter, words))
    if month.bill is None or month.bill.missing.intervals == month.bill.missing.of:
        box = {"x": f"{x + 2:.1f}", "y": f"{BAR_TOP}", "width": f"{per - 4:.1f}", "height": f"{BAR_HEIGHT}"}
        marks.append(Mark("rect", {"class": "wm-gap", **box}, title=words))
    return marks


def _round_up(value: float) -> float:
    """Return a round number no less than a value, for the top of an axis."""
    if value <= 0:
        return 1.0
    size = 10.0 ** (len(f"{value:.0f}") - 1)
    return next(size * step for step in (1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10) if size * step >= value)


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceRow:
    """A cause of a difference, and what it comes to."""

    cause: str
    amount: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceView:
    """A typed bill against the computed one, in words."""

    id: str
    title: str
    sentence: str
    rows: list[DifferenceRow]
    is_explained: bool


def difference_view(typed: TypedBill, found: BillDifference, made: Bill, country: str) -> DifferenceView:
    """Return why a typed bill differs, causes that come to nothing left out."""
    currency = made.currency
    causes = [("Days of the standing charge", found.days)]
    causes += [(f"Energy, {name}", amount) for name, amount in found.energy]
    causes += [(f"Price, {name}", amount) for name, amount in found.price]
    causes += [("Standing charge a day", found.standing), ("Tax", found.tax), ("Rounding and the rest", found.rounding)]
    rows = [
        DifferenceRow(cause=cause, amount=show.number(float(amount), 2, is_signed=True))
        for cause, amount in causes
        if amount
    ]
    more = "more" if found.difference > 0 else "less"
    size = show.money(abs(found.difference), currency, coin_digits(currency))
    words = (
        "It is the same to the smallest coin."
        if not found.difference
        else f"{size} {more} than worked out. "
        + (
            "It is explained, to rounding."
            if found.is_explained
            else "Not wholly explained: something on it is not typed, or not in the tariff."
        )
    )
    return DifferenceView(
        id=typed.id,
        title=f"{typed.label or 'Bill'}, {period_words(typed.first, typed.last, country)}: "
        f"{show.money(typed.total, currency, coin_digits(currency))}",
        sentence=words,
        rows=rows,
        is_explained=found.is_explained,
    )
