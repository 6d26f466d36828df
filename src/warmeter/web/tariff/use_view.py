"""Energy by machine, room and day, and by hour and day of the week, as drawings and tables."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.tariff.use_shares import UseOfDays, UseShare
from warmeter.service.tariffs.use import HomeUse
from warmeter.web import format as show
from warmeter.web.strip.draw import Drawing, Mark

HEIGHT, LEFT, FOOT, TOP = 190, 44, 22, 10
SHADES = 6
HOUR_LEFT, HOUR_TOP, CELL_HEIGHT = 44, 20, 18
WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
LEAST_OPACITY, MOST_OPACITY = 0.06, 0.9


@dataclass(frozen=True, slots=True, kw_only=True)
class EnergyUseRow:
    """A part of the use in the table."""

    name: str
    shade: int
    kwh: str
    share: str
    money: str
    year: str
    days: str


def shown_parts(use: UseOfDays) -> list[tuple[int, UseShare]]:
    """Return the parts with their shade, the largest first, the rest last."""
    ranked = sorted(use.parts, key=lambda part: part.kwh, reverse=True)
    shaded = [(min(number, SHADES - 1), part) for number, part in enumerate(ranked)]
    return [*shaded, *([(SHADES, use.rest)] if use.rest is not None else [])]


def use_rows(found: HomeUse, currency: str) -> list[EnergyUseRow]:
    """Return the table of the parts with their money of the month and of the year, as far as they were heard."""
    use = found.days
    whole = use.whole.kwh if use.whole is not None else sum(part.kwh for part in use.parts)
    return [
        EnergyUseRow(
            name=part.name,
            shade=shade,
            kwh=show.number(part.kwh, 1),
            share=f"{show.number(100 * part.kwh / whole, 0)} %" if whole > 0 else "",
            money=show.money(_of_month(found, part), currency),
            year=show.money(found.shares[part.name].known if part.name in found.shares else None, currency),
            days=str(part.heard_days),
        )
        for shade, part in shown_parts(use)
    ]


def _of_month(found: HomeUse, part: UseShare) -> Decimal | float | None:
    """Return a part's share of the month's bill; without a bill the prices of its hours."""
    share = found.shares.get(part.name)
    return part.cost if share is None or share.last is None else share.last


def use_chart(use: UseOfDays, width: int) -> Drawing:
    """Return the days as bars, each built of the parts; days that were not heard are hatched."""
    parts = shown_parts(use)
    stacks = [np.nan_to_num(np.maximum(part.by_day, 0.0)) for _, part in parts]
    total = np.sum(stacks, axis=0) if stacks else np.zeros(use.days)
    top = max(float(total.max()) if total.size else 0.0, 1e-9)
    step = next(s for s in (0.5, 1, 2, 5, 10, 20, 50, 100, 1e9) if top / s <= 6)
    top = step * np.ceil(top / step)
    per = (width - LEFT) / use.days
    marks = []
    for value in np.arange(0, top + step / 2, step):
        y = TOP + HEIGHT * (1 - value / top)
        marks.append(Mark("path", {"class": "wm-grid", "d": f"M{LEFT} {y:.1f}H{width}"}))
        at = {"x": f"{LEFT - 6}", "y": f"{y + 4:.1f}"}
        marks.append(Mark("text", {"class": "wm-ax wm-end", **at}, show.number(float(value), 0 if step >= 1 else 1)))
    for day in range(use.days):
        marks += _day_bar(
            use, day, [(shade, part.name, s[day]) for (shade, part), s in zip(parts, stacks, strict=True)], per, top
        )
    return Drawing(
        id="use",
        title="Energy of each day by machine and room, kWh",
        width=width,
        height=TOP + HEIGHT + FOOT,
        marks=marks,
    )


def _day_bar(use: UseOfDays, day: int, stack: list[tuple[int, str, float]], per: float, top: float) -> list[Mark]:
    on: date = use.first + timedelta(days=day)
    x, y = LEFT + day * per, float(TOP + HEIGHT)
    marks = []
    for shade, name, kwh in stack:
        tall = HEIGHT * float(kwh) / top
        if tall > 0:
            y -= tall
            box = {"x": f"{x + 1:.1f}", "y": f"{y:.1f}", "width": f"{max(per - 2, 1):.1f}", "height": f"{tall:.1f}"}
            words = f"{on:%a %d %b}, {name}: {show.number(float(kwh), 2)} kWh"
            marks.append(Mark("rect", {"class": f"wm-use wm-use-{shade}", **box}, title=words))
    is_heard = use.whole is None or not np.isnan(use.whole.by_day[day])
    if not is_heard:
        box = {"x": f"{x + 1:.1f}", "y": f"{TOP}", "width": f"{max(per - 2, 1):.1f}", "height": f"{HEIGHT}"}
        marks.append(Mark("rect", {"class": "wm-gap", **box}, title=f"{on:%a %d %b}: no data received"))
    if per > 16 or on.day % 5 == 1:
        at = {"x": f"{x + per / 2:.1f}", "y": f"{TOP + HEIGHT + 14}"}
        css = "wm-ax wm-mid" if on.weekday() < 5 else "wm-ax wm-mid wm-strong"
        marks.append(Mark("text", {"class": css, **at}, str(on.day)))
    return marks


def hour_chart(by_hour: Floats, width: int) -> Drawing:
    """Return energy by hour of the day and day of the week as a field; stronger is more, the number says it too."""
    per = (width - HOUR_LEFT) / 24
    top = max(float(by_hour.max()), 1e-9)
    marks = []
    for hour in range(0, 24, 2):
        at = {"x": f"{HOUR_LEFT + (hour + 0.5) * per:.1f}", "y": "13"}
        marks.append(Mark("text", {"class": "wm-ax wm-mid", **at}, f"{hour:02d}"))
    for day, name in enumerate(WEEKDAYS):
        y = HOUR_TOP + CELL_HEIGHT * day
        marks.append(Mark("text", {"class": "wm-name", "x": "0", "y": f"{y + 13}"}, name))
        for hour in range(24):
            kwh = float(by_hour[day, hour])
            x = HOUR_LEFT + hour * per
            opacity = LEAST_OPACITY + (MOST_OPACITY - LEAST_OPACITY) * kwh / top
            box = {"x": f"{x:.1f}", "y": f"{y}", "width": f"{per - 1:.1f}", "height": f"{CELL_HEIGHT - 1}"}
            words = f"{name} {hour:02d} to {hour + 1:02d} h: {show.number(kwh, 1)} kWh"
            marks.append(Mark("rect", {"class": "wm-hour", "fill-opacity": f"{opacity:.2f}", **box}, title=words))
            if per >= 26:
                at = {"x": f"{x + per / 2:.1f}", "y": f"{y + 13}"}
                marks.append(Mark("text", {"class": "wm-ax wm-mid wm-halo", **at}, show.number(kwh, 1)))
    return Drawing(
        id="hours",
        title="Energy by hour of the day and day of the week, kWh",
        width=width,
        height=HOUR_TOP + 7 * CELL_HEIGHT + 4,
        marks=marks,
    )
