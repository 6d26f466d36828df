"""A cold room: how far short it was at the hour that counts, and how early its heating must start."""

from dataclasses import dataclass
from datetime import timedelta
from typing import Literal

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.explain.lead_figure import lead_figure
from warmeter.core.figure import Figure
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.nuisances.result import DayBars, FoundNumber, More, NuisanceResult
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timetable.day import setpoint_of
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.wording import clock_time
from warmeter.service.app import App
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.readings.room_logs import instants, room_series
from warmeter.store.work import Job

SHORT_K = 0.5  # under what is asked by more than this a room was cold at its hour
CAUTION = "Electric heaters and wiring: work on them is for a licensed person; keep heaters clear of what burns."
MORE = (
    More(title="Its windows and walls", text="A surveyed loss beside the learnt one.", step="survey", minutes=10),
    More(title="Another fortnight of log", text="A narrower range of the lead time.", step="import_log", minutes=1),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomSaid:
    """What bothers in a room: too cold or too warm."""

    trouble: Literal["cold", "warm"] = "cold"


def cold_room_result(app: App, home: Home, room_id: str) -> NuisanceResult:
    """Return how often a room was cold at its hour, and its lead time where the log teaches it."""
    room, zone = home.room(room_id), home.zone_of_room(room_id)
    if zone is None:
        return NuisanceResult(sentence=f"{room.name} is not heated.", is_answered=False)
    due_min, wanted_c = _due(home, zone)
    bars, short = _short_by_day(app, home, room_id, due_min, wanted_c)
    facts = []
    if short:
        cold = [each for each in short if each > SHORT_K]
        facts += [
            FoundNumber(label="Days logged", value=len(short)),
            FoundNumber(label=f"Cold at {clock_time(due_min)}", value=len(cold), unit=f"of {len(short)} days"),
            FoundNumber(label="Short of what is wanted, mean", value=float(np.mean(short)), unit="K", decimals=1),
        ]
    stored = app.work.fits(home.id).get(room_id)
    if stored is None:
        job = app.work.latest(home.id, room_id)
        words = "The log is being learnt from." if job is not None and not job.is_over else _failed(job)
        return NuisanceResult(sentence=words, is_answered=False, facts=tuple(facts), bars=bars, caution=CAUTION)
    if not stored.fit.is_fit_for_use:
        return NuisanceResult(
            sentence=stored.fit.missing[0], is_answered=False, facts=tuple(facts), bars=bars, more=MORE, caution=CAUTION
        )
    loss = stored.fit.loss_w_k
    if stored.fit.watts_known:
        facts.append(FoundNumber(label="Heat loss", value=loss.value, unit="W/K", decimals=0))
    try:
        figure = _lead(app, home, zone, due_min)
    except NotKnowable as why:
        return NuisanceResult(sentence=str(why), is_answered=False, facts=tuple(facts), bars=bars, caution=CAUTION)
    if figure.value is None:
        words = sentence(
            "{} cannot reach {} by {} however early it starts within 12 h: its heater is too small or its night too cold.",
            room.name,
            celsius(wanted_c),
            clock_time(due_min),
        )
        return NuisanceResult(
            sentence=words, is_answered=True, facts=tuple(facts), bars=bars, more=MORE, caution=CAUTION, figure=figure
        )
    ends = f"{figure.low or 0:.0f} to " + ("not reached in time" if figure.high is None else f"{figure.high:.0f} min")
    words = sentence(
        "Start {} at {}: {:.0f} min ({}) before {}, to be at {} then.",
        room.name,
        clock_time(round(due_min - figure.value) % MIN_PER_DAY),
        figure.value,
        ends,
        clock_time(due_min),
        celsius(wanted_c),
    )
    return NuisanceResult(
        sentence=words, is_answered=True, facts=tuple(facts), bars=bars, more=MORE, caution=CAUTION, figure=figure
    )


def _failed(job: Job | None) -> str:
    return (
        job.sentence if job is not None else ""
    ) or "Import its temperature, the temperature outdoors and the heat given; then it is learnt from."


def _due(home: Home, zone: Zone) -> tuple[int, float]:
    """Return the minute of the day at which a zone asks most for the first time, and that temperature [°C]."""
    points = zone.timetables[0].usual
    warmest = max(points, key=lambda point: (setpoint_of(home, zone, point), -point.start_min))
    return warmest.start_min, setpoint_of(home, zone, warmest)


def _short_by_day(
    app: App, home: Home, room_id: str, due_min: int, wanted_c: float
) -> tuple[DayBars | None, list[float]]:
    """Return how far a room was under what was wanted at its hour, day by day [K], and the days that were heard."""
    series = room_series(app, home, "room_temperature", room_id)
    if not series:
        return None, []
    clock = app.clock(home)
    spans = [app.readings.span(s.id) for s in series]
    first = clock.local(min(low for low, _ in spans)).date()
    last = clock.local(max(high for _, high in spans)).date()
    days = [first + timedelta(days=k) for k in range((last - first).days + 1)]
    at = np.array([clock.instant(day, due_min) for day in days], dtype=np.int64)
    short = wanted_c - instants(app, home, series, at)
    values = tuple(None if np.isnan(each) else max(0.0, float(each)) for each in short)
    told = sentence("Short of {} at {}", celsius(wanted_c), clock_time(due_min))
    return DayBars(label=told, unit="K", first=first, values=values), [float(x) for x in short[~np.isnan(short)]]


def _lead(app: App, home: Home, zone: Zone, due_min: int) -> Figure:
    """Return the lead time of the zone's warmest period on the day after the log; ``NotKnowable`` if nothing tells it."""
    _, revision = app.homes.load(home.id)
    on = app.clock(home).local(app.as_of_ms(home.id)).date() + timedelta(days=1)
    forecast = day_forecast(app, home, revision, on)
    for room in forecast.rooms:
        if room.zone.id == zone.id:
            for index, block in enumerate(room.blocks):
                if block.start_min == due_min and not block.is_carried:
                    if any(lead.block.from_ms == block.from_ms and lead.measure_first for lead in room.leads):
                        raise NotKnowable("The lead time is known too roughly for a start.", "Log a fortnight more.")
                    return lead_figure(forecast, zone.id, index)
    raise NotKnowable(f"The day has no period that begins at {clock_time(due_min)}.", "Look at its timetable.")
