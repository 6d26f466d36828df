"""A room's fit as strip, table of what was learnt, and lead times, all ready strings."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.home.document import Heater, Home, Room
from warmeter.core.home.presets import surveyed_room
from warmeter.core.thermal.learnt import HELD_BACK, Learnt, RoomFit, RoomLog
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.timegrid import LocalClock
from warmeter.core.warmup.lead import Lead, lead_from_floor
from warmeter.store.codec import StoredFit
from warmeter.web import format as show
from warmeter.web.readings.view import long_axis
from warmeter.web.strip.draw import Drawn, draw
from warmeter.web.strip.lanes import Curve, Lane, Level, Stretch, StripView

OUTDOORS_C = (-6.0, -3.0, 0.0, 3.0, 6.0, 9.0)
FALL_H = 8.0
TABLE_BAND_K = 0.1  # a narrow band, so that the table does not show where in its cycle a thermostat stood
POINTS = 700  # a strip draws no more than it has pixels: means over the steps between


@dataclass(frozen=True, slots=True)
class LearntRow:
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

    strip: Drawn
    learnt: list[LearntRow]
    outdoors: list[str]
    leads: list[LeadRow]
    aim: str
    sentence: str
    candidates: list[tuple[str, str, bool]]
    is_fit_for_use: bool
    watts_known: bool
    made: str
    is_stale: bool


def fit_strip(log: RoomLog, stored: StoredFit, home: Home, clock: LocalClock, width: int) -> Drawn:
    """Return log and model over the whole log."""
    fit = stored.fit
    every_step = max(1, -(-log.heat_w.size // POINTS))
    log = _coarser(log, every_step)
    measured, fitted = log.room_c, _means(fit.fitted_c[:-1], every_step)
    residual = fitted - measured
    held = round(log.heat_w.size * (1 - HELD_BACK))
    lows = np.concatenate([measured[~np.isnan(measured)], fitted])
    low, high = float(lows.min()) - 0.5, float(lows.max()) + 0.5
    marks = [c for c in range(int(low) + 1, int(high) + 1) if c % 2 == 0][:5]
    used = Stretch(start=0, end=held, css="wm-bar", label="")
    kept = Stretch(start=held, end=log.heat_w.size, css="wm-bar is-hollow", label="")
    end_ms = stored.log_start_ms + round((measured.size - 1) * log.step_s * 1000)
    axis = long_axis(stored.log_start_ms, end_ms, measured.size, clock, home)
    every = int(axis.table_step)

    def column(values: np.ndarray, decimals: int) -> list[str]:  # type: ignore[type-arg]
        return ["" if np.isnan(v) else show.number(float(v), decimals) for v in values[::every]]

    temperature = [
        (
            ["" if np.isnan(v) else show.temperature(float(v), home) for v in measured[::every]],
            show.temperature_unit(home),
            "",
        ),
        ([show.temperature(float(v), home) for v in fitted[::every]], show.temperature_unit(home), "fit"),
    ]
    unit = "W" if fit.watts_known else "log's unit"
    lanes = [
        Lane(
            name="Log used",
            note="",
            height=26,
            stretches=(used, kept),
            table=[
                ([f"{'shown' if k * every < held else 'held back'}" for k in range(len(temperature[0][0]))], "", "")
            ],
        ),
        Lane(
            name="Room",
            note=show.temperature_unit(home),
            height=112,
            low=low,
            high=high,
            axis=[(float(c), show.temperature(float(c), home, 0)) for c in marks],
            curves=(Curve(values=measured, css="wm-temp"), Curve(values=fitted, css="wm-model")),
            table=temperature,
        ),
        Lane(
            name="Error",
            note="fit − room",
            height=52,
            low=-1.0,
            high=1.0,
            axis=[(-0.5, f"{show.MINUS}0.5"), (0.5, "0.5")],
            levels=(Level(value=0.0, css="wm-zero", label=""),),
            curves=(Curve(values=np.clip(residual, -1, 1), css="wm-outl"),),
            table=[(column(residual, 2), "K", "")],
        ),
        Lane(
            name="Heat",
            note=unit,
            height=46,
            high=max(float(np.nanmax(log.heat_w)) * 1.1, 1.0),
            fills=(Curve(values=log.heat_w, css="wm-pw"),),
            table=[(column(log.heat_w, 0), "W" if fit.watts_known else "", "")],
        ),
        Lane(
            name="Outdoor",
            note=show.temperature_unit(home),
            height=46,
            low=float(np.nanmin(log.outdoor_c)) - 1,
            high=float(np.nanmax(log.outdoor_c)) + 1,
            curves=(Curve(values=log.outdoor_c, css="wm-outl"),),
            table=[
                (
                    ["" if np.isnan(v) else show.temperature(float(v), home) for v in log.outdoor_c[::every]],
                    show.temperature_unit(home),
                    "",
                )
            ],
        ),
    ]
    return draw(StripView(id="fit", title="Measured against modelled", axis=axis, lanes=lanes, width=width))


def _means(values: np.ndarray, every: int) -> np.ndarray:  # type: ignore[type-arg]
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


def _row(name: str, learnt: Learnt, survey: float | None, unit: str, decimals: int, scale: float = 1.0) -> LearntRow:
    scaled = Learnt(value=learnt.value * scale, low=learnt.low * scale, high=learnt.high * scale)
    apart = survey is not None and not learnt.low <= survey <= learnt.high
    return LearntRow(
        name,
        show.number(scaled.value, decimals),
        show.span(scaled, decimals),
        "–" if survey is None else show.number(survey * scale, decimals),
        unit,
        apart,
    )


def learnt_rows(fit: RoomFit, room: Room, heater: Heater | None) -> list[LearntRow]:
    """Return what was learnt beside the survey; without watts only times."""
    survey = surveyed_room(room, heater.kind if heater else None)
    slow = float(survey.network().time_constants_s()[0])
    times = [
        _row("Slow time constant", fit.slow_s, slow, "h", 1, 1 / 3600),
        _row("Fast time constant", fit.fast_s, None, "min", 0, 1 / 60),
    ]
    if fit.emitter_lag_s is not None:
        times.append(_row("Heater's own lag", fit.emitter_lag_s, survey.emitter_lag_s, "min", 0, 1 / 60))
    if not fit.watts_known:
        return times
    return [
        _row("Heat loss", fit.loss_w_k, survey.loss_w_k, "W/K", 1),
        _row("Store, air and furniture", fit.air_j_k, survey.air_j_k, "Wh/K", 0, 1 / 3600),
        _row("Store, fabric", fit.fabric_j_k, survey.fabric_j_k, "Wh/K", 0, 1 / 3600),
        _row("Air to fabric", fit.air_fabric_w_k, survey.air_fabric_w_k, "W/K", 0),
        _row("Gains nobody logged", fit.gain_w, None, "W", 0),
        *times,
    ]


def lead_rows(fit: RoomFit, heater: Heater, home: Home, aim_c: float) -> list[LeadRow]:
    """Return lead times to the aim after eight hours at three setbacks."""
    full_heat_w = heater.rated_heat_w if fit.watts_known else fit.full_heat_w
    step = compile_rooms(fit.rooms, full_heat_w, 60.0)
    control = OnOff(full_heat_w=full_heat_w, band_k=TABLE_BAND_K, min_on_steps=1, min_off_steps=1)
    rows = []
    for drop in (2.0, 3.0, 4.0):
        cells = []
        for outdoor in OUTDOORS_C:
            lead = lead_from_floor(
                step,
                control,
                floor_c=aim_c - drop,
                target_c=aim_c,
                outdoor_c=outdoor,
                gain_w=np.array(fit.gains_w),
                hours_of_fall=FALL_H,
            )
            cells.append(_lead_cell(lead))
        rows.append(LeadRow(show.temperature(aim_c - drop, home), cells))
    return rows


def _lead_cell(lead: Lead) -> tuple[str, str]:
    if lead.best is None:
        return "too late", ""
    high = "too late" if lead.high is None else show.number(lead.high)
    return show.number(lead.best), f"{show.number(lead.low)} to {high}"


def sentence_of(fit: RoomFit) -> str:
    """Return how sure the fit is, in words."""
    base = (
        f"Over the last quarter of the log, which the fit was not shown, the model ran free and missed by "
        f"{fit.held_back_rmse_k:.2f} K; the plain mean of the rest would have missed by {fit.mean_rmse_k:.2f} K."
    )
    if not fit.is_fit_for_use:
        return base + " It is worse than the mean: this model is not fit for use, and the survey's is used instead."
    return base
