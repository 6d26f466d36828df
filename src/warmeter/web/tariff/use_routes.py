"""Routes of which tariff, and of energy by machine, room, day and hour."""

from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.csv_cells import csv_text
from warmeter.core.home.document import Home
from warmeter.core.tariff.bills_of_year import use_by_hour
from warmeter.service.tariffs.bills import carrier_meter, last_metered_month
from warmeter.service.tariffs.choice import tariff_choice
from warmeter.service.tariffs.use import home_use
from warmeter.web.page import Page, app_of, frame_of, is_fragment, render, strip_width
from warmeter.web.strip.draw import Drawing
from warmeter.web.tariff.choice_view import ChoiceView, choice_view
from warmeter.web.tariff.use_view import EnergyUseRow, hour_chart, shown_parts, use_chart, use_rows

router = APIRouter()


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoicePage(Page):
    """Which tariff."""

    home: Home
    tab: str
    query: dict[str, str]
    view: ChoiceView | None
    why_not: str


@router.get("/homes/{home_id}/which-tariff", name="tariff_choice")
def which_tariff(request: Request, home_id: str) -> Response:
    """Show the home's own year on each of its tariffs and offers."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    today = app.clock(home).local(app.as_of_ms(home_id)).date()
    month = last_metered_month(app, home, "electricity")
    now = home.tariff_on(today)
    now_id = "" if now is None else now.id
    choice = None if month is None else tariff_choice(app, home, "electricity", month, now_id)
    page = ChoicePage(
        frame=frame_of(request, home, revision, "tariff"),
        home=home,
        tab="choice",
        query={},
        view=None if choice is None else choice_view(choice, home, now_id),
        why_not="Nothing is metered yet: import the meter's log first."
        if month is None
        else "There is no tariff yet: type its rates under Tariff.",
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "tariff/_choice.html" if is_fragment(request) else "tariff/choice.html", page)


@dataclass(frozen=True, slots=True, kw_only=True)
class UsePage(Page):
    """Energy by machine, room, day and hour."""

    home: Home
    tab: str
    query: dict[str, str]
    month: date | None
    month_text: str
    chart: Drawing | None
    rows: list[EnergyUseRow]
    months: int
    hours: Drawing | None


def _month_of(request: Request, home: Home) -> date | None:
    text = request.query_params.get("month", "")
    try:
        return date.fromisoformat(f"{text}-01")
    except ValueError:
        return last_metered_month(app_of(request), home, "electricity")


def _last_day(month: date) -> date:
    return date(month.year + month.month // 12, month.month % 12 + 1, 1) - timedelta(days=1)


@router.get("/homes/{home_id}/use", name="tariff_use")
def use(request: Request, home_id: str) -> Response:
    """Show what machines and rooms used on each day of a month, and at which hours."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    month = _month_of(request, home)
    width = strip_width(request, has_aside=False)
    chart, rows, hours, months = None, [], None, 0
    if month is not None:
        found = home_use(app, home, month, _last_day(month))
        chart, rows = use_chart(found.days, width), use_rows(found, home.currency)
        months = max((share.months for share in found.shares.values()), default=0)
        whole = carrier_meter(app, home, "electricity").metered.bought
        hours = hour_chart(use_by_hour(whole, app.clock(home), month, _last_day(month)), width)
    page = UsePage(
        frame=frame_of(request, home, revision, "tariff"),
        home=home,
        tab="use",
        query={},
        month=month,
        month_text="" if month is None else f"{month:%Y-%m}",
        chart=chart,
        rows=rows,
        months=months,
        hours=hours,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "tariff/_use.html" if is_fragment(request) else "tariff/use.html", page)


@router.get("/homes/{home_id}/use.csv", name="use_csv")
def use_csv(request: Request, home_id: str) -> Response:
    """Save the energy of each day and part of a month as CSV; empty cells are days that were not heard."""
    app = app_of(request)
    home, _ = app.homes.load(home_id)
    month = _month_of(request, home)
    rows = [["date"]]
    if month is not None:
        found = home_use(app, home, month, _last_day(month))
        parts = [part for _, part in shown_parts(found.days)]
        rows = [["date", *(f"{part.name} kWh" for part in parts)]]
        for day in range(found.days.days):
            cells = ["" if np.isnan(part.by_day[day]) else f"{part.by_day[day]:.6f}" for part in parts]
            rows.append([str(found.days.first + timedelta(days=day)), *cells])
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-use.csv"'}
    return Response(csv_text(rows), media_type="text/csv; charset=utf-8", headers=headers)
