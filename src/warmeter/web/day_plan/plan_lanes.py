"""A plan of the day as lanes: price, sun, each part with its habit, what another start would cost, the grid."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.day_plan.check import CheckedPlan, store_course_c
from warmeter.core.day_plan.dry_air import ALL_PCT
from warmeter.core.day_plan.plan_rules import OtherStart
from warmeter.core.day_plan.planned_room import RoomHeat, room_course_c
from warmeter.core.day_plan.problem import DayPlan, HeatStore, PlannedRun, PlanProblem
from warmeter.core.day_plan.wanted import PlanTime
from warmeter.core.home.document import Home
from warmeter.core.units import MIN_PER_H, MS_PER_H, MS_PER_MIN, W_PER_KW
from warmeter.web import format as show
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import (
    Axis,
    Bracket,
    Curve,
    Lane,
    ReferenceLine,
    StripStep,
    StripStretch,
    StripView,
    gutter_name,
)

LANE, THIN = 44, 34
HEADROOM = 1.5


def _table(values: Sequence[str], unit: str, word: str = "") -> tuple[Sequence[str], str, str]:
    return values, unit, word


def _by_minute(values: Floats, step_min: int) -> Floats:
    return np.repeat(values, step_min)


class PlanLanes:
    """The lanes of one plan."""

    def __init__(self, home: Home, time: PlanTime, problem: PlanProblem, plan: DayPlan | None, habit: DayPlan) -> None:
        self.home, self.time, self.problem, self.plan, self.habit = home, time, problem, plan, habit
        self.step = float(time.step_min)
        self.currency = home.currency

    def price(self) -> Lane:
        """Return the price, with what is paid for what is sold."""
        price = self.problem.import_price
        edges = [0, *(np.flatnonzero(np.abs(np.diff(price)) > 1e-9) + 1).tolist(), price.size]
        steps = [
            StripStep(
                start=a * self.step,
                end=b * self.step,
                value=float(price[a]),
                label=show.small_money(float(price[a]), self.currency),
            )
            for a, b in pairwise(edges)
        ]
        sold = self.problem.export_price
        curves = [Curve(values=_by_minute(sold, self.time.step_min), css="wm-sold")] if sold.any() else []
        unit = show.small_money_unit(self.currency)
        table = [_table([show.small_money(float(p), self.currency) for p in price], unit)]
        low = min(0.0, float(price.min()))
        return Lane(
            name="Price",
            note=f"{unit}/kWh",
            height=LANE,
            low=low,
            high=max(float(price.max()) * 1.15, low + 0.01),
            steps=steps,
            curves=curves,
            table=table,
        )

    def _watts(self, kwh: Floats) -> Floats:
        return kwh * W_PER_KW / self.problem.hours

    def _power_lane(self, name: str, note: str, watts: Floats, high: float = 0.0, **rest: object) -> Lane:
        top = max(float(watts.max()) if watts.size else 0.0, high, 1.0) * HEADROOM
        values = _by_minute(np.where(watts > 0, watts, np.nan), self.time.step_min)
        return Lane(
            name=gutter_name(name),
            note=note,
            height=LANE,
            high=top,
            fills=(Curve(values=values, css="wm-pw"),),
            table=[_table([show.number(float(w), 0) if w else "" for w in watts], "W")],
            **rest,  # type: ignore[arg-type]
        )

    def sun(self) -> Lane | None:
        """Return what the sun is expected to give; None where nothing is known of panels."""
        if not self.problem.sun_kwh.any():
            return None
        return self._power_lane("Panels", "expected, W", self._watts(self.problem.sun_kwh))

    def run(self, run: PlannedRun, cost: str, *, is_chosen: bool) -> Lane:
        """Return a machine's run with its habit dashed, quiet hours hatched, a handle at its start."""
        size = self.problem.slots
        watts = np.zeros(size)
        brackets = []
        if self.plan is not None:
            start = self.plan.starts[run.key]
            watts[start : start + run.slots] = self._watts(run.profile_kwh)
            pinned = "pinned, " if run.pinned is not None else ""
            brackets.append(
                Bracket(
                    start=start * self.step,
                    end=(start + run.slots) * self.step,
                    label=f"{pinned}{self.clock(start)} to {self.clock(start + run.slots)}",
                    note=cost,
                    key=run.key,
                )
            )
        usual = np.full(size, np.nan)
        at = self.habit.starts[run.key]
        usual[at : at + run.slots] = self._watts(run.profile_kwh)
        quiet = []
        if run.quiet is not None:
            edges = np.flatnonzero(np.diff(np.concatenate([[False], run.quiet, [False]]).astype(np.int8))).tolist()
            quiet = [
                StripStretch(start=a * self.step, end=b * self.step, css="wm-gap", label="quiet")
                for a, b in zip(edges[::2], edges[1::2], strict=True)
            ]
        return self._power_lane(
            run.name,
            "chosen" if is_chosen else "W",
            watts,
            float(self._watts(run.profile_kwh).max()),
            curves=(Curve(values=_by_minute(usual, self.time.step_min), css="wm-habit"),),
            brackets=brackets,
            stretches=quiet,
        )

    def clock(self, slot: int) -> str:
        """Return the time of day at which a slot begins."""
        at = int(self.time.start_ms[0]) + slot * self.time.step_min * MS_PER_MIN
        return f"{self.time.clock.local(at):%H:%M}"

    def others(self, starts: Sequence[OtherStart]) -> Lane:
        """Return what each other start of the chosen run would cost more; broken where a rule forbids it."""
        more = np.array([start.more for start in starts])
        size = self.problem.slots
        free, broken, words = np.full(size, np.nan), np.full(size, np.nan), [""] * size
        for start in starts:
            (broken if start.breaks else free)[start.slot] = start.more
            words[start.slot] = show.small_money(start.more, self.currency)
        spread = max(float(np.abs(more).max()), 0.01)
        return Lane(
            name="other start",
            note="costs",
            is_part=True,
            height=LANE,
            low=-spread,
            high=spread,
            axis=((0.0, "0"),),
            levels=(ReferenceLine(value=0.0, css="wm-grid wm-major", label=""),),
            curves=(
                Curve(values=_by_minute(free, self.time.step_min), css="wm-prl"),
                Curve(values=_by_minute(broken, self.time.step_min), css="wm-barred"),
            ),
            table=[_table(words, show.small_money_unit(self.currency))],
        )

    def power_part(self, name: str, watts: Floats, usual: Floats) -> Lane:
        """Return the power of a charge, of hours or of a store, with its habit."""
        habit = np.where(usual > 0, usual, np.nan)
        return self._power_lane(
            name,
            "W",
            watts,
            float(usual.max()),
            curves=(Curve(values=_by_minute(habit, self.time.step_min), css="wm-habit"),),
        )

    def water(self, store: HeatStore, plan: DayPlan) -> Lane:
        """Return a store's temperature with its limits."""
        course = np.array(store_course_c(self.problem, plan, store))
        low, high = float(min(course.min(), store.low_c.min())) - 3, float(max(course.max(), store.low_c.max())) + 3
        unit = show.temperature_unit(self.home)
        return Lane(
            name="water",
            note=unit,
            is_part=True,
            height=LANE,
            low=low,
            high=high,
            curves=(
                Curve(values=_by_minute(course, self.time.step_min), css="wm-pred"),
                Curve(values=_by_minute(store.low_c, self.time.step_min), css="wm-limit"),
            ),
            table=[_table([show.temperature(float(c), self.home) for c in course], unit)],
        )

    def humidity(self, store: HeatStore, plan: DayPlan) -> Lane:
        """Return a room's relative humidity between the ends of its band."""
        course, damp, dry = (
            ALL_PCT - np.array(each) for each in (store_course_c(self.problem, plan, store), store.low_c, store.high_c)
        )
        return Lane(
            name="humidity",
            note="%, limits",
            is_part=True,
            height=LANE,
            low=float(min(course.min(), dry.min())) - 3,
            high=float(max(course.max(), damp.max())) + 3,
            curves=(
                Curve(values=_by_minute(course, self.time.step_min), css="wm-pred"),
                Curve(values=_by_minute(damp, self.time.step_min), css="wm-limit"),
                Curve(values=_by_minute(dry, self.time.step_min), css="wm-limit"),
            ),
            table=[_table([show.number(float(c), 1) for c in course], "%")],
        )

    def room(self, room: RoomHeat, plan: DayPlan) -> Lane:
        """Return a room's air as planned between what is asked and how far it may be warmed ahead."""
        course = np.array([nodes[0] for nodes in room_course_c(room, plan.room_kw[room.key])])
        low, high = float(min(course.min(), room.low_c.min())) - 1, float(max(course.max(), room.high_c.max())) + 1
        unit = show.temperature_unit(self.home)
        return Lane(
            name="air",
            note=f"{unit}, limits",
            is_part=True,
            height=LANE,
            low=low,
            high=high,
            curves=(
                Curve(values=_by_minute(course, self.time.step_min), css="wm-pred"),
                Curve(values=_by_minute(room.low_c, self.time.step_min), css="wm-limit"),
                Curve(values=_by_minute(room.high_c, self.time.step_min), css="wm-limit"),
            ),
            table=[_table([show.temperature(float(c), self.home) for c in course], unit)],
        )

    def battery(self, plan: DayPlan) -> Lane:
        """Return what goes into the battery and comes out of it."""
        net = self._watts(plan.battery_in_kwh - plan.battery_out_kwh)
        spread = max(float(np.abs(net).max()), 1.0)
        return Lane(
            name="Battery",
            note="in above, out below",
            height=LANE,
            low=-spread,
            high=spread,
            levels=(ReferenceLine(value=0.0, css="wm-grid wm-major", label=""),),
            curves=(Curve(values=_by_minute(net, self.time.step_min), css="wm-outl"),),
            table=[_table([show.number(float(w), 0) for w in net], "W")],
        )

    def grid(self, told: CheckedPlan, usual: CheckedPlan) -> Lane:
        """Return what is taken from the grid, with what habit takes dashed and the main fuse as a line."""
        watts, habit = self._watts(np.array(told.imported_kwh)), self._watts(np.array(usual.imported_kwh))
        top = max(float(watts.max()), float(habit.max()), 1.0) * 1.2
        levels = []
        cap = self.problem.import_cap_kwh
        if cap is not None and self._watts(np.array([cap]))[0] <= top * 1.5:
            limit = float(self._watts(np.array([cap]))[0])
            top = max(top, limit * 1.1)
            levels.append(ReferenceLine(value=limit, css="wm-limit", label=f"main fuse {show.number(limit, 0)} W"))
        return Lane(
            name="From grid",
            note="habit dashed, W",
            height=56,
            high=top,
            fills=(Curve(values=_by_minute(watts, self.time.step_min), css="wm-pw"),),
            curves=(Curve(values=_by_minute(habit, self.time.step_min), css="wm-habit"),),
            levels=levels,
            table=[
                _table([show.number(float(w), 0) for w in watts], "W"),
                _table([show.number(float(w), 0) for w in habit], "W", "habit"),
            ],
        )


def plan_strip(lanes: Sequence[Lane], view: PlanLanes, width: int, pin_url: str) -> DrawnStrip:
    """Return the strip of a plan; a run's start that is dragged goes to ``pin_url``."""
    minutes = view.problem.slots * view.time.step_min
    every = 2 if width >= 560 else 6
    hours = range(0, minutes // MIN_PER_H + 1, every if minutes <= 25 * MIN_PER_H else every * 2)
    begin = int(view.time.start_ms[0])

    def label(hour: int) -> str:
        return f"{view.time.clock.local(begin + hour * MS_PER_H):%H}"

    axis = Axis(
        length=float(minutes),
        grid=[(60.0 * hour, hour % 6 == 0) for hour in hours],
        numerals=[(60.0 * hour, label(hour)) for hour in hours],
        table_step=float(view.time.step_min),
        table_times=[view.clock(slot) for slot in range(view.problem.slots)],
        crosshair=630.0,
    )
    return draw(
        StripView(
            id="day-plan",
            title=f"The plan of {view.time.on}",
            axis=axis,
            lanes=lanes,
            width=width,
            left=112,
            attributes={"data-pin": pin_url, "data-snap": f"{view.time.step_min} {view.time.step_min}"},
        )
    )
