"""A window and a heater: how long both were at work at once on the log, and what the rule would have kept."""

from datetime import timedelta

import numpy as np

from warmeter.core.arrays import Flags
from warmeter.core.forecast.tariff_year import mean_price
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, SetLevel
from warmeter.core.nuisances.result import DayBars, FoundNumber, More, NuisanceResult
from warmeter.core.saving.simple import exact
from warmeter.core.truth.track import value_of
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.service.app import App
from warmeter.service.readings.room_logs import heat_series, means
from warmeter.service.rules.replays import replay
from warmeter.service.rules.rule_signals import track_of

MOST_DAYS = 62
LEAST_HEAT_W = 5.0
MORE = (
    More(title="Its windows on the plan", text="What an open one loses in an hour.", step="survey", minutes=10),
    More(
        title="The heat of the heater",
        text="With its watts in the log, what the rule keeps has an amount.",
        step="import_log",
        minutes=5,
    ),
)


def window_result(app: App, home: Home, rule_id: str) -> NuisanceResult:
    """Return how often the rule of a window would have set its room idle, and the heat given meanwhile."""
    rule = next((r for r in home.rules if r.id == rule_id), None)
    bounds = app.readings.bounds(home.id)
    if rule is None or bounds is None:
        return NuisanceResult(sentence="Import a log of the window or of the room's temperature.", is_answered=False)
    end = bounds[1] + MS_PER_MIN
    start = max(bounds[0], end - MOST_DAYS * MIN_PER_DAY * MS_PER_MIN) // MS_PER_MIN * MS_PER_MIN
    minutes = (end - start) // MS_PER_MIN
    replayed = replay(app, home, start, end).rules.get(rule_id)
    if replayed is None or replayed.unheard:
        return NuisanceResult(sentence="The log holds no data of its window.", is_answered=False)
    held = _held([(f.at_ms, f.end_ms) for f in replayed.rule_run.firings], start, minutes)
    zone = home.zone_of_id(next(i for step in rule.then if isinstance(step, SetLevel) for i in step.zone_ids))
    room = home.room(zone.room_ids[0])
    series, in_watts = heat_series(app, home.id, room.id)
    heat = means(app, series, start, 60.0, int(minutes)) if series and in_watts else np.full(minutes, np.nan)
    is_known, count = bool((~np.isnan(heat)).any()), len(replayed.rule_run.firings)
    kwh = float(np.nansum(np.where(held, heat, 0.0))) / W_MIN_PER_KWH
    days = float(minutes) / MIN_PER_DAY
    both = held & (np.nan_to_num(heat) > LEAST_HEAT_W)
    facts = [
        FoundNumber(label="Opened, by the rule", value=count, unit="times"),
        FoundNumber(label="Stood idle for it", value=float(held.sum()) / 60, unit="h", decimals=1),
        FoundNumber(label="Window open, in all", value=_open_h(app, home, rule, start, end), unit="h", decimals=1),
        FoundNumber(label="Heated meanwhile", value=float(both.sum()) / 60 if is_known else None, unit="h", decimals=1),
        FoundNumber(label="Heat given meanwhile", value=kwh if is_known else None, unit="kWh", decimals=1),
    ]
    bars = _bars(app, home, held, start)
    opened = f"{room.name} was opened {count} time{'s' * (count != 1)} for over three minutes in {days:.0f} days"
    if not is_known:
        words = f"{opened}; the rule sets it idle for {float(held.sum()) / 60:.1f} h. What was heated meanwhile no log says."
    else:
        price = mean_price(home, app.clock(home).local(bounds[1]).date())
        money = "" if price is None else f", {exact(kwh) * price:.2f} {home.currency}"
        words = (
            f"{opened}, and heated for {float(both.sum()) / 60:.1f} h of it: {kwh:.1f} kWh{money} went out that the rule "
            "would have kept from being asked. What the room cools by must be warmed up again; that is not taken off."
        )
    return NuisanceResult(sentence=words, is_answered=True, facts=tuple(facts), bars=bars, more=MORE)


def _held(stretches: list[tuple[int, int | None]], start_ms: int, minutes: int) -> Flags:
    """Return in which minutes the rule holds, shape (minute,)."""
    at = start_ms + np.arange(minutes, dtype=np.int64) * MS_PER_MIN
    held = np.zeros(minutes, dtype=np.bool_)
    for begin, until in stretches:
        held |= (at >= begin) & (at < (at[-1] + MS_PER_MIN if until is None else until))
    return held


def _open_h(app: App, home: Home, rule: Rule, start_ms: int, end_ms: int) -> float | None:
    """Return for how long a contact that the rule watches stood open [h]; None where it watches none."""
    signals = {s for clause in rule.watch for c in clause for s in c.signals if s.quantity == "is_open"}
    if not signals:
        return None
    at = np.arange(start_ms, end_ms, MS_PER_MIN, dtype=np.int64)
    is_open = np.zeros(at.size, dtype=np.bool_)
    for signal in signals:
        is_open |= np.nan_to_num(value_of(track_of(app, home, signal, start_ms, end_ms), at)) > 0.5
    return float(is_open.sum()) / 60


def _bars(app: App, home: Home, held: Flags, start_ms: int) -> DayBars:
    """Return for how long the rule held by day [min]."""
    clock = app.clock(home)
    first = clock.local(start_ms).date()
    values = []
    day = first
    while (begin := (clock.instant(day, 0) - start_ms) // MS_PER_MIN) < held.size:
        until = (clock.instant(day + timedelta(days=1), 0) - start_ms) // MS_PER_MIN
        values.append(float(held[max(begin, 0) : max(until, 0)].sum()))
        day += timedelta(days=1)
    return DayBars(label="Open while it should be idle, by day", unit="min", first=first, values=tuple(values))
