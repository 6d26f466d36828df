"""How long to wait before off, drawn: wrong offs and wasted hours by wait, and their sum."""

from dataclasses import dataclass
from math import sqrt

from warmeter.core.home.document import Home
from warmeter.core.presence.idle_time import WaitOutcome
from warmeter.core.presence.room_outcomes import RoomWait
from warmeter.core.units import S_PER_MIN
from warmeter.web import format as show

LEFT, RIGHT, TOP, UPPER, GAP, LOWER = 46, 52, 24, 150, 28, 90
HEIGHT = TOP + UPPER + GAP + LOWER + 22
LONGEST_S, SHORT_S, ABOVE_BEST = 3600, 300, 4.0
TICKS_S = (0, 30, 60, 120, 300, 600, 1200, 1800, 3600)


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitView:
    """The picture: paths in px, ticks (place, word), marks of the proposed wait and of that in force, and the words."""

    width: int
    height: int
    ticks: list[tuple[float, str]]
    offs_axis: list[tuple[float, str]]
    hours_axis: list[tuple[float, str]]
    cost_axis: list[tuple[float, str]]
    offs: str
    hours: str
    own_hold_y: float
    cost: str
    span: tuple[float, float]
    best_x: float
    best_dots: tuple[float, float, float]
    in_force_x: float | None
    best: str
    in_force: str
    sentence: str
    worth: str
    best_s: int
    is_judged: bool
    upper: tuple[int, int]
    lower: tuple[int, int]


def wait_view(home: Home, wait: RoomWait, width: int) -> WaitView:
    """Return the picture and words of a room's wait for a width [px]."""
    inner = width - LEFT - RIGHT
    rows, best = wait.found.rows, wait.found.best
    at_5_min = next((r for r in rows if r.wait_s >= SHORT_S), rows[-1])
    # Very short waits are wrong by the hundred: they run along the upper edge.
    offs_top = _nice(max(best.wrong_offs_week * ABOVE_BEST, at_5_min.wrong_offs_week))
    hours_top = _nice(max(r.wasted_h_week for r in rows))
    cost_top = _nice(best.cost_week * ABOVE_BEST)
    upper, lower = (TOP, TOP + UPPER), (TOP + UPPER + GAP, TOP + UPPER + GAP + LOWER)

    def x(seconds: float) -> float:
        return round(LEFT + inner * sqrt(seconds / LONGEST_S), 1)

    def y(value: float, top: float, box: tuple[int, int]) -> float:
        return round(box[1] - (box[1] - box[0]) * min(value / top, 1.0), 1)

    def path(name: str, top: float, box: tuple[int, int]) -> str:
        return "M" + "L".join(f"{x(r.wait_s)} {y(getattr(r, name), top, box)}" for r in rows)

    def axis(top: float, box: tuple[int, int], decimals: int) -> list[tuple[float, str]]:
        return [(y(part * top, top, box), show.number(part * top, decimals)) for part in (0.0, 0.5, 1.0)]

    span = wait.found.span_s
    return WaitView(
        width=width,
        height=HEIGHT,
        ticks=[(x(s), f"{s / S_PER_MIN:g}") for s in TICKS_S],
        offs_axis=axis(offs_top, upper, 0 if offs_top >= 4 else 1),
        hours_axis=axis(hours_top, upper, 0 if hours_top >= 4 else 1),
        cost_axis=axis(cost_top, lower, 2),
        offs=path("wrong_offs_week", offs_top, upper),
        hours=path("wasted_h_week", hours_top, upper),
        own_hold_y=y(rows[0].wasted_h_week, hours_top, upper),
        cost=path("cost_week", cost_top, lower),
        span=(x(span[0]), x(span[1])),
        best_x=x(best.wait_s),
        best_dots=(
            y(best.wrong_offs_week, offs_top, upper),
            y(best.wasted_h_week, hours_top, upper),
            y(best.cost_week, cost_top, lower),
        ),
        in_force_x=None if wait.in_force_s is None or wait.in_force_s > LONGEST_S else x(wait.in_force_s),
        best=_minutes(best.wait_s),
        in_force="never off" if wait.in_force_s is None else _minutes(wait.in_force_s),
        sentence=_sentence(home, wait),
        worth=_worth(home, wait),
        best_s=best.wait_s,
        is_judged=wait.is_judged,
        upper=upper,
        lower=lower,
    )


def _sentence(home: Home, wait: RoomWait) -> str:
    """Return the proposal in words, beside what is in force."""
    best, (low, high) = wait.found.best, wait.found.span_s
    span = f"; {_minutes(low)} to {_minutes(high)} cost at most a tenth more" if low < high else ""
    words = (
        f"{_minutes(best.wait_s)} after the sensor’s off, {_minutes(best.after_motion_s)} after the last motion: "
        f"{_outcome(home, best)}{span}."
    )
    own = _row_in_force(wait)
    return words if own is None else f"{words} In force, {_minutes(own.wait_s)}: {_outcome(home, own)}."


def _row_in_force(wait: RoomWait) -> WaitOutcome | None:
    if wait.in_force_s is None or wait.in_force_s > LONGEST_S:
        return None
    return min(wait.found.rows, key=lambda r: abs(r.wait_s - (wait.in_force_s or 0)))


def _outcome(home: Home, row: WaitOutcome) -> str:
    offs, hours = show.number(row.wrong_offs_week, 1), show.number(row.wasted_h_week, 1)
    return f"{offs} wrong offs and {hours} h wasted a week, {show.money(row.cost_week, home.currency)}"


def _worth(home: Home, wait: RoomWait) -> str:
    """Return what a better sensor would be worth."""
    return (
        "A sensor that sees whoever keeps still, off a minute after each leaving, would spare "
        f"{show.money(wait.better_a_year, home.currency, 0)} a year at most."
    )


def _minutes(seconds: float) -> str:
    return f"{seconds:g} s" if 0 < seconds < S_PER_MIN else f"{round(seconds / S_PER_MIN, 1):g} min"


def _nice(value: float) -> float:
    """Return a round number at or above a value for an axis."""
    if value <= 0:
        return 1.0
    step = 10.0 ** len(str(int(value)))
    for part in (0.1, 0.2, 0.25, 0.5, 1.0):
        if part * step >= value:
            return part * step
    return step
