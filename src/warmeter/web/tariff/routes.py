"""Routes of the tariff: the short form of a time-of-use tariff."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.ids import new_id
from warmeter.core.edits.tariff_commands import ChangeTariff
from warmeter.core.forecast.tariff_year import first_gap
from warmeter.core.home.document import Home, Tariff
from warmeter.core.home.part import Name, TimeOfDay
from warmeter.core.tariff.price_days import idle_rates
from warmeter.core.tariff.structure import DAY_KINDS, Rate
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form
from warmeter.web.page import Page, app_of, back_to, frame_of, render, strip_width
from warmeter.web.public_holidays import public_holidays
from warmeter.web.saving import save
from warmeter.web.strip.draw import DrawnStrip
from warmeter.web.tariff.price_lanes import price_strip

router = APIRouter()
LEAST_ROWS, MOST_ROWS, SPARE_ROWS = 6, 40, 2
Price = Annotated[Decimal, Ge(-100), Le(100)]


@dataclass(frozen=True, slots=True, kw_only=True)
class TariffPage(Page):
    """The form of a tariff."""

    home: Home
    tariff: Tariff | None
    errors: dict[str, str]
    t: Mapping[str, str]
    rows: range
    gap: str
    idle: list[str]
    strip: DrawnStrip | None


def _page(request: Request, home_id: str, texts: Texts | None, errors: dict[str, str], status: int = 200) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    tariff = home.tariffs[-1] if home.tariffs else None
    gap = ""
    if tariff is not None:
        clock = app.clock(home)
        gap = first_gap(tariff, home.time_zone, clock.day_of(app.as_of_ms(home_id)).start_ms)
    typed = texts if texts is not None else _texts(tariff)
    view = TariffPage(
        frame=frame_of(request, home, revision, "tariff"),
        home=home,
        tariff=tariff,
        errors=errors,
        t=typed,
        rows=range(1, _rows_of(typed) + 1),
        gap=gap,
        idle=[] if tariff is None else [tariff.rates[place].name for place in idle_rates(tariff.rates)],
        strip=None if tariff is None else price_strip(tariff, strip_width(request, has_aside=False)),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "tariff/rates.html", view, status)


def _rows_of(typed: Mapping[str, str]) -> int:
    """Return how many lines the form has: those that say something, and some to spare."""
    said = [k for k in range(1, MOST_ROWS + 1) if typed.get(f"r{k}_name") or typed.get(f"r{k}_price")]
    return min(MOST_ROWS, max(LEAST_ROWS, max(said, default=0) + SPARE_ROWS))


def _texts(tariff: Tariff | None) -> dict[str, str]:
    """Return the form's texts of a tariff."""
    if tariff is None:
        return {
            "name": "My tariff",
            "standing": "0",
            "r1_name": "day",
            "r1_from_min": "00:00",
            "r1_to_min": "24:00",
            "r1_months": "1-12",
            **{f"r1_{kind}": "on" for kind in DAY_KINDS},
        }
    texts = {
        "name": tariff.name,
        "standing": str(tariff.standing_per_day),
        "valid_from": str(tariff.valid_from or ""),
        "valid_to": str(tariff.valid_to or ""),
        "holidays": ", ".join(str(d) for d in tariff.holidays),
        **({"standard": "on"} if tariff.is_standard_time else {}),
    }
    for k, rate in enumerate(tariff.rates, 1):
        texts |= {
            f"r{k}_name": rate.name,
            f"r{k}_price": str(rate.price_per_kwh),
            f"r{k}_from_min": show.clock_time(rate.from_min),
            f"r{k}_to_min": show.clock_time(rate.to_min),
            f"r{k}_months": _months_text(rate.months),
            **{f"r{k}_{kind}": "on" for kind in rate.days},
        }
    return texts


def _months_text(months: tuple[int, ...]) -> str:
    return "1-12" if len(months) == 12 else ", ".join(str(m) for m in months)


def _months(typed: str) -> tuple[int, ...]:
    """Return months of "11, 12, 1-3"; ``ValueError`` says what is wrong with them."""
    found: list[int] = []
    try:
        for part in (typed.strip() or "1-12").replace(";", ",").split(","):
            first, _, last = part.strip().partition("-")
            low, high = int(first), int(last or first)
            found += range(low, high + 1) if low <= high else [*range(low, 13), *range(1, high + 1)]
    except ValueError as error:
        raise ValueError("Write months such as 11, 12, 1-3") from error
    if not all(1 <= m <= 12 for m in found):
        raise ValueError("Months lie between 1 and 12")
    return tuple(dict.fromkeys(found))


def _holidays(typed: str) -> tuple[date, ...]:
    """Return dates with commas or lines between; ``ValueError`` names the one that is none."""
    days = []
    for part in typed.replace("\n", ",").split(","):
        if part.strip():
            try:
                days.append(date.fromisoformat(part.strip()))
            except ValueError as error:
                raise ValueError(f"{part.strip()!r} is no date such as 2026-12-25") from error
    return tuple(days)


@dataclass(frozen=True, slots=True, kw_only=True)
class _TariffForm:
    """A tariff without its rates."""

    name: Name
    standing: Price = Decimal(0)
    valid_from: date | None = None
    valid_to: date | None = None
    holidays: str = ""
    standard: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class _RateForm:
    """A rate; ``from_min`` and ``to_min`` are times of day."""

    name: Name
    price: Price
    from_min: TimeOfDay = 0
    to_min: TimeOfDay = 1440
    months: str = ""
    weekday: bool = False
    weekend: bool = False
    holiday: bool = False

    def rate(self) -> Rate:
        """Return the rate; ``FormError`` if its fields do not go together."""
        kinds = tuple(kind for kind in DAY_KINDS if getattr(self, kind))
        if not kinds:
            raise FormError({"weekday": "Tick at least one kind of day"})
        if self.from_min == self.to_min:
            raise FormError({"from_min": "Two different times; 00:00 to 24:00 is the whole day"})
        try:
            months = _months(self.months)
        except ValueError as error:
            raise FormError({"months": str(error)}) from error
        return Rate(
            name=self.name,
            price_per_kwh=self.price,
            months=months,
            days=kinds,
            from_min=self.from_min,
            to_min=self.to_min,
        )


def read_tariff(texts: Texts, home: Home) -> Tariff:
    """Return the tariff of the form; ``FormError`` with a sentence for every field that is wrong."""
    errors: dict[str, str] = {}
    rates: list[Rate] = []
    for k in range(1, MOST_ROWS + 1):
        if texts.get(f"r{k}_price", "").strip():
            try:
                rates.append(read_form(_RateForm, texts, prefix=f"r{k}_").rate())
            except FormError as error:
                errors |= {
                    name if name.startswith(f"r{k}_") else f"r{k}_{name}": why for name, why in error.errors.items()
                }
    if not rates and not errors:
        errors["r1_price"] = "Give one price at least"
    form: _TariffForm | None = None
    days: tuple[date, ...] = ()
    try:
        days = _holidays(texts.get("holidays", ""))
    except ValueError as error:
        errors["holidays"] = str(error)
    try:
        form = read_form(_TariffForm, texts)
    except FormError as error:
        errors |= error.errors
    if errors or form is None:
        raise FormError(errors)
    return Tariff(
        id=home.tariffs[-1].id if home.tariffs else new_id(),
        name=form.name,
        currency=home.currency,
        rates=tuple(rates),
        standing_per_day=form.standing,
        valid_from=form.valid_from,
        valid_to=form.valid_to,
        holidays=days,
        is_standard_time=form.standard,
    )


@router.get("/homes/{home_id}/tariff", name="tariff")
def tariff(request: Request, home_id: str) -> Response:
    """Show the tariff's rates."""
    return _page(request, home_id, None, {})


@router.post("/homes/{home_id}/tariff", name="save_tariff")
def save_tariff(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Save the tariff, or show it again with what is wrong."""
    app = app_of(request)
    if "propose" in texts:
        home, _ = app.homes.load(home_id)
        year = app.clock(home).local(app.as_of_ms(home_id)).year
        days = ", ".join(str(day) for day in public_holidays(home.country, year))
        return _page(request, home_id, {**texts, "holidays": days}, {})
    try:
        save(request, home_id, texts, lambda home: ChangeTariff(tariff=read_tariff(texts, home)))
    except FormError as error:
        return _page(request, home_id, texts, error.errors, 422)
    return back_to(request, "tariff", home_id)
