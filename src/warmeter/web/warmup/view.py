"""A room's fit as strip, table of what was learnt, and lead times, all ready strings."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.losses import surveyed_room
from warmeter.core.forecast.setback_leads import SetbackLeads
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.sentence import kelvin, sentence
from warmeter.core.thermal.room_fit import HELD_BACK, Estimate, RoomFit, RoomLog, StoredFit
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_WH, S_PER_H, kelvin_to
from warmeter.core.warmup.lead import Lead
from warmeter.service.readings.room_logs import LONGEST_DAYS, SILENT_DAYS, DaysLeftOut
from warmeter.web import format as show
from warmeter.web.readings.view import long_axis
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Curve, Lane, ReferenceLine, StripStretch, StripView

POINTS = 700  # a strip draws no more than it has pixels: means over the steps between


@dataclass(frozen=True, slots=True)
class EstimateRow:
    """One learnt quantity beside its survey value."""

    name: str
    value: str
    span: str
    survey: str
    unit: str
    is_apart: bool


@dataclass(frozen=True, slots=True)
class LeadRow:
    """Lead times after one setback, by outdoor temperature."""

    floor: str
    cells: list[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmupView:
    """A fitted room's page."""

    strip: DrawnStrip
    learnt: list[EstimateRow]
    outdoors: list[str]
    leads: list[LeadRow]
    aim: str
    sentence: str
    missing: tuple[str, ...]
    doubts: tuple[str, ...]
    more_days: str
    candidates: list[tuple[str, str, bool]]
    is_fit_for_use: bool
    watts_known: bool
    made: str
    is_stale: bool


def fit_strip(log: RoomLog, stored: StoredFit, home: Home, clock: LocalClock, width: int) -> DrawnStrip:
    """Return log and model over the whole log, as means over the steps between two pixels."""
    every = max(1, -(-log.heat_w.size // POINTS))
    fitted_c = _means(stored.fit.fitted_c[:-1], every)
    coarse = _coarser(log, every)
    end_ms = stored.log_start_ms + round((coarse.room_c.size - 1) * coarse.step_s * 1000)
    axis = long_axis(stored.log_start_ms, end_ms, coarse.room_c.size, clock, home)
    lanes = [
        _used_lane(coarse.heat_w.size, int(axis.table_step)),
        _room_lane(coarse.room_c, fitted_c, home, int(axis.table_step)),
        _error_lane(fitted_c - coarse.room_c, home, int(axis.table_step)),
        _heat_lane(coarse.heat_w, int(axis.table_step), is_in_watts=stored.fit.watts_known),
        _outdoor_lane(coarse.outdoor_c, home, int(axis.table_step)),
    ]
    return draw(StripView(id="fit", title="Measured against modelled", axis=axis, lanes=lanes, width=width))


def _column(values: Floats, decimals: int, every: int) -> list[str]:
    return ["" if np.isnan(v) else show.number(float(v), decimals) for v in values[::every]]


def _temperatures(values_c: Floats, home: Home, every: int) -> list[str]:
    return ["" if np.isnan(v) else show.temperature(float(v), home) for v in values_c[::every]]


def _used_lane(steps: int, every: int) -> Lane:
    held = round(steps * (1 - HELD_BACK))
    words = ["shown" if k < held else "not shown to the fit" for k in range(0, steps, every)]
    stretches = (
        StripStretch(start=0, end=held, css="wm-bar"),
        StripStretch(start=held, end=steps, css="wm-bar is-hollow"),
    )
    return Lane(name="Log used", height=26, stretches=stretches, table=[(words, "", "")])


def _room_lane(room_c: Floats, fitted_c: Floats, home: Home, every: int) -> Lane:
    both = np.concatenate([room_c[~np.isnan(room_c)], fitted_c[~np.isnan(fitted_c)]])
    low, high = float(both.min()) - 0.5, float(both.max()) + 0.5
    marks = [float(c) for c in range(int(np.ceil(low)), int(high) + 1) if c % 2 == 0][:5]
    unit = show.temperature_unit(home)
    return Lane(
        name="Room",
        note=unit,
        height=112,
        low=low,
        high=high,
        axis=[(c, show.temperature(c, home, 0)) for c in marks],
        curves=(Curve(values=room_c, css="wm-temp"), Curve(values=fitted_c, css="wm-model")),
        table=[(_temperatures(room_c, home, every), unit, ""), (_temperatures(fitted_c, home, every), unit, "fit")],
    )


def _error_lane(residual_k: Floats, home: Home, every: int) -> Lane:
    return Lane(
        name="Error",
        note="fit − room",
        height=52,
        low=-1.0,
        high=1.0,
        axis=[(k, show.difference(k, home)) for k in (-0.5, 0.5)],
        levels=(ReferenceLine(value=0.0, css="wm-zero", label=""),),
        curves=(Curve(values=np.clip(residual_k, -1, 1), css="wm-outl"),),
        table=[(_column(residual_k * kelvin_to(1.0, home.temperature_unit), 2, every), show.difference_unit(home), "")],
    )


def _heat_lane(heat_w: Floats, every: int, *, is_in_watts: bool) -> Lane:
    return Lane(
        name="Heat",
        note="W" if is_in_watts else "log's unit",
        height=46,
        high=max(float(np.nanmax(heat_w)) * 1.1, 1.0),
        fills=(Curve(values=heat_w, css="wm-pw"),),
        table=[(_column(heat_w, 0, every), "W" if is_in_watts else "", "")],
    )


def _outdoor_lane(outdoor_c: Floats, home: Home, every: int) -> Lane:
    unit = show.temperature_unit(home)
    return Lane(
        name="Outdoor",
        note=unit,
        height=46,
        low=float(np.nanmin(outdoor_c)) - 1,
        high=float(np.nanmax(outdoor_c)) + 1,
        curves=(Curve(values=outdoor_c, css="wm-outl"),),
        table=[(_temperatures(outdoor_c, home, every), unit, "")],
    )


def _means(values: Floats, every: int) -> Floats:
    """Return means of neighbouring values, NaN where fewer than half were heard."""
    rows = values[: values.size // every * every].reshape(-1, every)
    heard = ~np.isnan(rows)
    sums = np.where(heard, rows, 0.0).sum(axis=1)
    return np.where(heard.sum(axis=1) * 2 >= every, sums / np.maximum(heard.sum(axis=1), 1), np.nan)


def _coarser(log: RoomLog, every: int) -> RoomLog:
    return replace(
        log,
        step_s=log.step_s * every,
        room_c=_means(log.room_c[:-1], every),
        outdoor_c=_means(log.outdoor_c[:-1], every),
        heat_w=_means(log.heat_w, every),
        clear_sky_w_m2=_means(log.clear_sky_w_m2, every),
        day=log.day[::every],
    )


def _row(
    name: str, learnt: Estimate, survey: float | None, unit: str, decimals: int, scale: float = 1.0
) -> EstimateRow:
    scaled = Estimate(value=learnt.value * scale, low=learnt.low * scale, high=learnt.high * scale)
    apart = survey is not None and not learnt.low <= survey <= learnt.high
    return EstimateRow(
        name,
        show.number(scaled.value, decimals),
        show.span(scaled, decimals),
        "–" if survey is None else show.number(survey * scale, decimals),
        unit,
        apart,
    )


def estimate_rows(fit: RoomFit, home: Home, room: Room) -> list[EstimateRow]:
    """Return what was learnt beside the survey; without watts only times."""
    survey = surveyed_room(home, room)
    slow = float(survey.network().time_constants_s()[0])
    times = [
        _row("Slow time constant", fit.slow_s, slow, "h", 1, 1 / S_PER_H),
        _row("Fast time constant", fit.fast_s, None, "min", 0, 1 / 60),
    ]
    if fit.emitter_lag_s is not None:
        times.append(_row("Heater's own lag", fit.emitter_lag_s, survey.emitter_lag_s, "min", 0, 1 / 60))
    if not fit.watts_known:
        return times
    return [
        _row("Heat loss", fit.loss_w_k, survey.loss_w_k, "W/K", 1),
        _row("Store, air and furniture", fit.air_j_k, survey.air_j_k, "Wh/K", 0, 1 / J_PER_WH),
        _row("Store, fabric", fit.fabric_j_k, survey.fabric_j_k, "Wh/K", 0, 1 / J_PER_WH),
        _row("Air to fabric", fit.air_fabric_w_k, survey.air_fabric_w_k, "W/K", 0),
        _row("Gains nobody logged", fit.gain_w, None, "W", 0),
        *times,
    ]


def lead_rows(table: Sequence[SetbackLeads], home: Home) -> list[LeadRow]:
    """Return lead times in words, a row for each setback."""
    return [LeadRow(show.temperature(row.floor_c, home), [_lead_cell(lead) for lead in row.leads]) for row in table]


def _lead_cell(lead: Lead) -> tuple[str, str]:
    if lead.best is None:
        return ("not reached in time" if lead.reach_c is None else "too small"), ""
    high = None if lead.high is None else show.number(lead.high)
    return show.number(lead.best), show.lead_span(show.number(lead.low), high)


def sentence_of(fit: RoomFit) -> str:
    """Return how sure the fit is, in words."""
    base = sentence(
        "Over the last quarter of the log, which the fit was not shown, the model, a day at a time, was off by "
        "{}; the mean of the rest would have been off by {}.",
        kelvin(fit.held_back_rmse_k, 2),
        kelvin(fit.mean_rmse_k, 2),
    )
    if not fit.is_fit_for_use:
        return base + " Nothing is worked out from this log until what is missing is there; the survey counts instead."
    return base


def left_out_of(days: DaysLeftOut, home: Home, clock: LocalClock) -> list[str]:
    """Return which days of a room's log it is not learnt from, and why, in words."""
    first, last = (show.day_long(clock.local(at).date(), home.country) for at in (days.first_ms, days.last_ms))
    lines = []
    if days.before:
        lines.append(
            f"{_days_heard(days.before)} before {first} {_is(days.before)} not used: a room is learnt from the last "
            f"{LONGEST_DAYS} days at most, and from nothing before a silence of more than {SILENT_DAYS} days."
        )
    if days.after:
        lines.append(
            f"{_days_heard(days.after)} after {last} {_is(days.after)} not used: so few after a silence of more than "
            f"{SILENT_DAYS} days come nearly always from a clock that was not set. Take that file back, or import more."
        )
    return lines


def _days_heard(days: int) -> str:
    return "1 day of the log" if days == 1 else f"{show.number(days)} days of the log"


def _is(days: int) -> str:
    return "is" if days == 1 else "are"


def more_days_of(fit: RoomFit) -> str:
    """Return how many more days of such a log would bring which width, in words."""
    if not fit.watts_known:
        return ""
    if not fit.narrowing:
        return (
            f"The heat loss is known to ±{show.number(100 * fit.loss_w_k.half_width)} %; more days like these would not narrow it, "
            "days in other weather may."
        )
    steps = [
        f"±{show.number(100 * half)} % after {show.number(days)} more days like these" for days, half in fit.narrowing
    ]
    return (
        f"The heat loss is known to ±{show.number(100 * fit.loss_w_k.half_width)} %; it would be {' and '.join(steps)}."
    )
