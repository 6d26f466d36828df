"""A comparison of timetables: the form, the table, and the differences as lanes by day."""

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import kelvin_to
from warmeter.service.timetable.comparisons import TimetableComparison, TimetableOutcome
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Axis, Curve, Lane, ReferenceLine, StripView
from warmeter.web.timetable.lanes import fitting_width


@dataclass(frozen=True, slots=True, kw_only=True)
class ComparedRow:
    """A timetable's figures, each with its difference to the first."""

    name: str
    cost: str
    cost_more: str
    kwh: str
    kwh_more: str
    short: str
    starts: str
    latest: str
    is_least: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CompareView:
    """The pane: choices, the stretch, and the newest result."""

    variants: list[tuple[str, str, bool]]
    first: str
    last: str
    rows: list[ComparedRow]
    strip: DrawnStrip | None
    weather: str
    about: str
    short_unit: str
    dangers: list[str]
    too_small: list[str]


def compare_view(
    home: Home,
    clock: LocalClock,
    variants: Sequence[tuple[str, str]],
    stretch: tuple[date, date],
    compared: TimetableComparison | None,
    width: int,
) -> CompareView:
    """Return the pane; the variants and dates of the newest comparison are chosen unless the address has others."""
    chosen = set(compared.asked.variants) if compared else {"now", "hold"}
    rows: list[ComparedRow] = []
    about = ""
    if compared is not None:
        costs = [f.cost if f.cost is not None else f.drawn_kwh for f in compared.found]
        # What breaks a guard limit is never marked for what it saves.
        sound = [k for k, f in enumerate(compared.found) if not any(w.is_danger for w in f.warnings)]
        least = min(sound, key=lambda k: costs[k]) if sound else -1
        rows = [_row(home, clock, compared, k, k == least) for k in range(len(compared.found))]
        ends = (show.day_long(d, home.country) for d in (compared.asked.first, compared.asked.last))
        about = f"{' to '.join(ends)}, at revision {compared.revision}"
        if compared.left_out:
            about += f"; without {', '.join(compared.left_out)}, not known in watts"
    return CompareView(
        variants=[(key, name, key in chosen) for key, name in variants],
        first=stretch[0].isoformat(),
        last=stretch[1].isoformat(),
        rows=rows,
        strip=None if compared is None else _strip(home, compared, width),
        weather="" if compared is None else compared.weather,
        about=about,
        short_unit=show.degree_hour_unit(home),
        dangers=[] if compared is None else _warned(home, clock, compared, is_danger=True),
        too_small=[] if compared is None else _warned(home, clock, compared, is_danger=False),
    )


def _warned(home: Home, clock: LocalClock, compared: TimetableComparison, *, is_danger: bool) -> list[str]:
    """Return in words which rooms are in danger, or have heaters too small, under which timetable."""
    unit, lines = show.temperature_unit(home), []
    for found in compared.found:
        for w in (w for w in found.warnings if w.is_danger == is_danger):
            reached, limit = show.temperature(w.reached_c, home), show.temperature(w.limit_c, home)
            when = (
                show.moment(w.at_ms, clock, home.country)
                if is_danger
                else show.day_short(clock.local(w.at_ms).date(), home.country)
            )
            lines.append(
                f"{found.name}: {w.room} falls to {reached} {unit}, under its protection limit of {limit} {unit}, coldest on {when}: "
                "pipes and people there are at risk."
                if is_danger
                else f"{found.name}: the heater of {w.room} is too small for {limit} {unit}. On {when}, at "
                f"{show.temperature(w.outdoor_c, home)} {unit} outdoors, full heat for ever would hold {reached} {unit}."
            )
    return lines


def _row(home: Home, clock: LocalClock, compared: TimetableComparison, place: int, is_least: bool) -> ComparedRow:
    found, first = compared.found[place], compared.found[0]
    more = found.cost - first.cost if found.cost is not None and first.cost is not None else None
    late = "within a day never" if found.latest_min is None else show.duration(found.latest_min)
    if found.latest_room and found.latest_min != 0:
        when = show.moment(found.latest_at_ms, clock, home.country)
        late = f"{late}, {found.latest_room}, {when}"
    return ComparedRow(
        name=found.name,
        cost=show.money(found.cost, home.currency),
        cost_more="" if more is None or not place else show.money(more, home.currency, is_signed=True),
        kwh=show.number(found.drawn_kwh, 0),
        kwh_more="" if not place else show.number(found.drawn_kwh - first.drawn_kwh, 0, is_signed=True),
        short=show.difference(found.underheating_kh, home),
        starts=show.number(found.starts, 0),
        latest="in time" if found.latest_min == 0 else late,
        is_least=is_least,
    )


def _strip(home: Home, compared: TimetableComparison, available: int) -> DrawnStrip:
    days = len(compared.day_outdoor_c)
    dates = [compared.asked.first + timedelta(days=k) for k in range(days)]
    lanes = [_outdoor(home, compared), _first(home, compared.found[0])]
    lanes += [_difference(home, found, compared.found[0]) for found in compared.found[1:]]
    months = [(float(k), True) for k, d in enumerate(dates) if d.day == 1]
    weeks = [(float(k), False) for k, d in enumerate(dates) if d.weekday() == 0] if days <= 120 else []
    every = 1 if days <= 14 else 7 if days <= 70 else 0
    numerals = [
        (k + (0.5 if every == 1 else 0.0), f"{d.day} {d:%b}")
        for k, d in enumerate(dates)
        if (every and k % every == 0) or (not every and d.day == 1)
    ]
    return draw(
        StripView(
            id="season",
            title=f"{dates[0]} to {dates[-1]}: cost by day and differences",
            axis=Axis(
                length=float(days),
                grid=[*weeks, *months],
                numerals=numerals,
                table_step=1.0,
                table_times=[show.day_short(d, home.country) for d in dates],
                crosshair=days / 2,
                clock_names=[(0.0, "day")],
            ),
            lanes=lanes,
            width=fitting_width(available, days, 20.0 if days > 60 else 1.0),
        )
    )


def _two_lines(name: str) -> tuple[str, str]:
    """Return a long name on two lines of a lane's margin."""
    first, *rest = textwrap.wrap(name, 14)
    return first, textwrap.shorten(" ".join(rest), 15, placeholder="…") if rest else ""


def _short_of(home: Home, values: np.ndarray, *, is_signed: bool = False) -> tuple[list[str], str, str]:
    """Return the column of degree hours short, its unit before the value: both do not fit after it."""
    shown = [kelvin_to(v, home.temperature_unit) for v in values.tolist()]
    return [show.number(v, 1, is_signed=is_signed) for v in shown], "", show.degree_hour_unit(home)


def _stepped(values: np.ndarray) -> Curve:
    return Curve(values=values, css="wm-outl", start=0.5, step=1.0)


def _outdoor(home: Home, compared: TimetableComparison) -> Lane:
    values = np.array(compared.day_outdoor_c)
    low, high = float(values.min()) - 1, float(values.max()) + 1
    marks = [c for c in (-10.0, 0.0, 10.0, 20.0, 30.0) if low < c < high]
    column = [show.temperature(v, home) for v in values.tolist()]
    return Lane(
        name="Outdoor",
        note="daily mean",
        height=56,
        low=low,
        high=high,
        axis=[(c, show.temperature(c, home, 0)) for c in marks],
        curves=(_stepped(values),),
        table=[(column, show.temperature_unit(home), "")],
    )


def _values(found: TimetableOutcome) -> tuple[np.ndarray, bool]:
    return (np.array(found.day_cost), True) if found.day_cost else (np.array(found.day_kwh), False)


def _shown(home: Home, value: float, is_money: bool, *, is_signed: bool = False) -> str:
    return (
        show.money(value, home.currency, is_signed=is_signed)
        if is_money
        else show.number(value, 1, is_signed=is_signed)
    )


def _first(home: Home, found: TimetableOutcome) -> Lane:
    values, is_money = _values(found)
    short = np.array(found.day_underheating_kh)
    name, rest = _two_lines(found.name)
    return Lane(
        name=name,
        note=rest or ("cost a day" if is_money else "kWh a day"),
        height=72,
        low=0.0,
        high=max(float(values.max()) * 1.1, 0.01),
        fills=(Curve(values=values, css="wm-prf", start=0.5),),
        curves=(Curve(values=values, css="wm-prl", start=0.5),),
        table=[
            ([_shown(home, v, is_money) for v in values.tolist()], "" if is_money else "kWh", ""),
            _short_of(home, short),
        ],
    )


def _difference(home: Home, found: TimetableOutcome, first: TimetableOutcome) -> Lane:
    values, is_money = _values(found)
    more = values - _values(first)[0]
    short = np.array(found.day_underheating_kh) - np.array(first.day_underheating_kh)
    name, rest = _two_lines(found.name)
    reach = max(float(np.abs(more).max()) * 1.1, 0.01)
    return Lane(
        name=name,
        note=rest or "more or less",
        height=72,
        low=-reach,
        high=reach,
        axis=[(0.0, "0")],
        levels=(ReferenceLine(value=0.0, css="wm-tick", label=""),),
        curves=(Curve(values=more, css="wm-prl", start=0.5),),
        table=[
            ([_shown(home, v, is_money, is_signed=True) for v in more.tolist()], "" if is_money else "kWh", ""),
            _short_of(home, short, is_signed=True),
        ],
    )
