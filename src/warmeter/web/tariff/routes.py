"""Routes of the tariff: the short form of a time-of-use tariff."""

from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Annotated

import holidays
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.ids import new_id
from warmeter.core.forecast.tariff_year import first_gap
from warmeter.core.home.document import Home, Tariff
from warmeter.core.tariff.structure import DAY_KINDS, Rate
from warmeter.service.homes.editing import edit_home
from warmeter.web import format as show
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import app_of, back_to, frame_of, person_of, render

router = APIRouter()
ROWS = 6


def _page(
    request: Request, home_id: str, texts: dict[str, str] | None, errors: dict[str, str], status: int = 200
) -> Response:
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    tariff = home.tariffs[-1] if home.tariffs else None
    gap = ""
    if tariff is not None:
        clock = app.clock(home)
        gap = first_gap(tariff, home.time_zone, clock.day_of(app.as_of_ms(home_id)).start_ms)
    view = {
        "frame": frame_of(request, home, revision, "tariff"),
        "home": home,
        "tariff": tariff,
        "errors": errors,
        "t": texts if texts is not None else _texts(tariff),
        "rows": range(1, ROWS + 1),
        "gap": gap,
        "notice": request.query_params.get("notice", ""),
    }
    return render(request, "tariff/rates.html", view, status)


def _texts(tariff: Tariff | None) -> dict[str, str]:
    """Return the form's texts of a tariff."""
    if tariff is None:
        return {
            "name": "My tariff",
            "standing": "0",
            "r1_name": "day",
            "r1_from": "00:00",
            "r1_to": "24:00",
            "r1_months": "1-12",
            **{f"r1_{kind}": "on" for kind in DAY_KINDS},
        }
    texts = {
        "name": tariff.name,
        "standing": str(tariff.standing_per_day),
        "from": str(tariff.valid_from or ""),
        "to": str(tariff.valid_to or ""),
        "holidays": ", ".join(str(d) for d in tariff.holidays),
        **({"standard": "on"} if tariff.is_standard_time else {}),
    }
    for k, rate in enumerate(tariff.rates, 1):
        texts |= {
            f"r{k}_name": rate.name,
            f"r{k}_price": str(rate.price_per_kwh),
            f"r{k}_from": show.clock_time(rate.from_min),
            f"r{k}_to": show.clock_time(rate.to_min),
            f"r{k}_months": _months_text(rate.months),
            **{f"r{k}_{kind}": "on" for kind in rate.days},
        }
    return texts


def _months_text(months: tuple[int, ...]) -> str:
    return "1-12" if len(months) == 12 else ", ".join(str(m) for m in months)


def _months(fields: Fields, name: str) -> tuple[int, ...]:
    """Return months of "11, 12, 1-3"."""
    found: list[int] = []
    try:
        for part in (fields.texts.get(name, "") or "1-12").replace(";", ",").split(","):
            first, _, last = part.strip().partition("-")
            low, high = int(first), int(last or first)
            found += range(low, high + 1) if low <= high else [*range(low, 13), *range(1, high + 1)]
    except ValueError:
        fields.errors[name] = "Write months such as 11, 12, 1-3"
        return (1,)
    if not found or not all(1 <= m <= 12 for m in found):
        fields.errors[name] = "Months lie between 1 and 12"
        return (1,)
    return tuple(dict.fromkeys(found))


def read_tariff(fields: Fields, home: Home) -> Tariff | None:
    """Return the tariff of the form, None if it has errors (they stand in ``fields``)."""
    rates = []
    for k in range(1, ROWS + 1):
        if not fields.texts.get(f"r{k}_price", "").strip():
            continue
        kinds = tuple(kind for kind in DAY_KINDS if fields.is_on(f"r{k}_{kind}"))
        name = fields.text(f"r{k}_name", least=1, what="The rate's name")
        begin, end = fields.clock(f"r{k}_from", 0), fields.clock(f"r{k}_to", 1440)
        months, price = _months(fields, f"r{k}_months"), fields.money(f"r{k}_price")
        if not kinds:
            fields.errors[f"r{k}_weekday"] = "Tick at least one kind of day"
        elif begin == end:
            fields.errors[f"r{k}_from"] = "Two different times; 00:00 to 24:00 is the whole day"
        else:
            rates.append(
                Rate(name=name or "rate", price_per_kwh=price, months=months, days=kinds, from_min=begin, to_min=end)
            )
    if not rates and not fields.errors:
        fields.errors["r1_price"] = "Give one price at least"
    days = []
    for part in fields.texts.get("holidays", "").replace("\n", ",").split(","):
        if part.strip():
            try:
                days.append(date.fromisoformat(part.strip()))
            except ValueError:
                fields.errors["holidays"] = f"{part.strip()!r} is no date such as 2026-12-25"
    first, last = fields.day("from"), fields.day("to")
    standing = fields.money("standing", Decimal(0))
    name = fields.text("name", least=1, what="The tariff's name")
    if fields.errors:
        return None
    old = home.tariffs[-1] if home.tariffs else None
    return Tariff(
        id=old.id if old else new_id(),
        name=name,
        currency=home.currency,
        rates=tuple(rates),
        standing_per_day=standing,
        valid_from=first,
        valid_to=last,
        holidays=tuple(days),
        is_standard_time=fields.is_on("standard"),
    )


@router.get("/homes/{home_id}/tariff", name="tariff")
def tariff(request: Request, home_id: str) -> Response:
    """Show the tariff's rates."""
    return _page(request, home_id, None, {})


@router.post("/homes/{home_id}/tariff", name="save_tariff")
def save_tariff(request: Request, home_id: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Save the tariff, or show it again with what is wrong."""
    home, _ = app_of(request).homes.load(home_id)
    if "propose" in fields.texts:
        year = app_of(request).clock(home).local(app_of(request).as_of_ms(home_id)).year
        return _page(request, home_id, dict(fields.texts) | {"holidays": _public_holidays(home.country, year)}, {})
    base, found = fields.whole("base", 0, 10**9), read_tariff(fields, home)
    if found is None:
        return _page(request, home_id, dict(fields.texts), fields.errors, 422)
    edit_home(
        app_of(request),
        home_id,
        base,
        person_of(request),
        f"Tariff {found.name}: {len(found.rates)} rates",
        lambda h: replace(h, tariffs=(*h.tariffs[:-1], found)),
    )
    return back_to(request, "tariff", home_id)


def _public_holidays(country: str, year: int) -> str:
    """Return a country's public holidays of two years, empty where none are known."""
    if country not in holidays.list_supported_countries():
        return ""
    return ", ".join(str(day) for day in sorted(holidays.country_holidays(country, years=[year, year + 1])))
