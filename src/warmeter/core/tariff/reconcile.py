"""Why a bill differs from what was worked out: the difference part by part, nothing left over (Q11)."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal, localcontext

from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import Tax, TypedBill, TypedBillLine
from warmeter.core.tariff.bill import Bill
from warmeter.core.tariff.taxes import tax_factor

MOST_DIGITS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class SideRate:
    """Units at a price on one side; None on the bill's takes the computed one. ``is_taxed``: it carries the tax."""

    name: str
    units: Decimal | None
    price: Decimal | None
    is_taxed: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class BillSide:
    """One of two bills: days at a standing charge a day, rates, a tax (ratio), and the total as printed or rounded."""

    days: Decimal | None
    standing_per_day: Decimal | None
    tax_rate: Decimal | None
    rates: tuple[SideRate, ...]
    total: Decimal


@dataclass(frozen=True, slots=True, kw_only=True)
class BillDifference:
    """What a bill has more than the computed one [currency], by cause; the parts add up to ``difference`` exactly.

    ``energy`` and ``price`` are by rate, in order. ``is_explained``: what is left over is no more than rounding.
    """

    difference: Decimal
    days: Decimal
    energy: tuple[tuple[str, Decimal], ...]
    price: tuple[tuple[str, Decimal], ...]
    standing: Decimal
    tax: Decimal
    rounding: Decimal
    is_explained: bool


def reconciled(computed: BillSide, printed: BillSide, rounding_max: Decimal) -> BillDifference:
    """Return why a printed bill differs from a computed one.

    Raises
    ------
    TariffError
        If the computed side leaves something open, or a line that only the bill has carries no price.

    Notes
    -----
    docs/methods Q11: from the computed to the printed one, days, then energy, price, standing and tax, each with what went
    before already at the bill's value; the order is fixed, since the cross terms hang on it.
    """
    with localcontext() as context:
        context.prec = MOST_DIGITS
        return _reconciled(computed, printed, rounding_max)


def _reconciled(computed: BillSide, printed: BillSide, rounding_max: Decimal) -> BillDifference:
    days, standing, tax = (
        _given(value, name)
        for value, name in (
            (computed.days, "days"),
            (computed.standing_per_day, "standing charge"),
            (computed.tax_rate, "tax"),
        )
    )
    days_b = days if printed.days is None else printed.days
    standing_b = standing if printed.standing_per_day is None else printed.standing_per_day
    tax_b = tax if printed.tax_rate is None else printed.tax_rate
    rows = _rows(computed.rates, printed.rates)
    by_days = (days_b - days) * standing * (1 + tax)
    energy = tuple((name, (u_b - u) * p * (1 + tax * taxed)) for name, u, p, u_b, _, taxed in rows)
    price = tuple((name, u_b * (p_b - p) * (1 + tax * taxed)) for name, _, p, u_b, p_b, taxed in rows)
    by_standing = days_b * (standing_b - standing) * (1 + tax)
    taxed_b = sum((u_b * p_b for _, _, _, u_b, p_b, taxed in rows if taxed), Decimal(0)) + days_b * standing_b
    by_tax = taxed_b * (tax_b - tax)
    difference = printed.total - computed.total
    found = by_days + sum((d for _, d in (*energy, *price)), Decimal(0)) + by_standing + by_tax
    rounding = difference - found
    return BillDifference(
        difference=difference,
        days=by_days,
        energy=energy,
        price=price,
        standing=by_standing,
        tax=by_tax,
        rounding=rounding,
        is_explained=abs(rounding) <= rounding_max,
    )


def _given(value: Decimal | None, name: str) -> Decimal:
    if value is None:
        raise TariffError(f"the computed bill leaves its {name} open")
    return value


def _rows(
    computed: Sequence[SideRate], printed: Sequence[SideRate]
) -> list[tuple[str, Decimal, Decimal, Decimal, Decimal, int]]:
    """Return name, units and price of both sides, and whether taxed, of each rate: the computed ones, then the bill's own."""
    on_bill = {rate.name: rate for rate in printed}
    rows = []
    for rate in computed:
        units, price = _given(rate.units, f"units of {rate.name}"), _given(rate.price, f"price of {rate.name}")
        other = on_bill.get(rate.name)
        if other is None:
            rows.append((rate.name, units, price, Decimal(0), price, int(rate.is_taxed)))
        else:
            units_b = units if other.units is None else other.units
            price_b = price if other.price is None else other.price
            rows.append((rate.name, units, price, units_b, price_b, int(rate.is_taxed)))
    known = {rate.name for rate in computed}
    for rate in printed:
        if rate.name not in known:
            if rate.price is None:
                raise TariffError(f"{rate.name} stands only on the bill: type its price too")
            rows.append((rate.name, Decimal(0), rate.price, rate.units or Decimal(0), rate.price, int(rate.is_taxed)))
    return rows


def side_of_bill(bill: Bill, taxes: Sequence[Tax], *, has_tax_within: bool) -> BillSide:
    """Return a computed bill as a side: daily standing charges as such, every other line as units at a price."""
    rates: list[SideRate] = []
    standing = Decimal(0)
    for line in bill.lines:
        if line.kind == "tax":
            continue
        if line.kind == "standing" and line.unit == "days" and line.is_taxed and line.units == bill.days:
            standing += line.price or Decimal(0)
            continue
        price = line.price
        if price is None:
            price = line.amount / line.units if line.units else Decimal(0)
        name = line.name if line.above is None else f"{line.name}, above {line.above.normalize():f}"
        while any(rate.name == name for rate in rates):
            name = f"{name} from {line.first:%d %b}" if "from " not in name else f"{name} again"
        rates.append(SideRate(name=name, units=line.units, price=price, is_taxed=line.is_taxed))
    return BillSide(
        days=Decimal(bill.days),
        standing_per_day=standing,
        tax_rate=Decimal(0) if has_tax_within else tax_factor(taxes) - 1,
        rates=tuple(rates),
        total=bill.total,
    )


def side_of_typed(typed: TypedBill, computed: BillSide) -> BillSide:
    """Return a typed bill as a side; what is not printed is open, all lines where none was typed."""
    lines = typed.lines or tuple(TypedBillLine(name=rate.name) for rate in computed.rates)
    known = {rate.name: rate.is_taxed for rate in computed.rates}
    return BillSide(
        days=Decimal(typed.days if typed.days is not None else (typed.last - typed.first).days + 1),
        standing_per_day=typed.standing_per_day,
        tax_rate=typed.tax_rate,
        rates=tuple(
            SideRate(name=line.name, units=line.units, price=line.price_per_unit, is_taxed=known.get(line.name, True))
            for line in lines
        ),
        total=typed.total,
    )
