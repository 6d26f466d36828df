"""What a rule would have saved: the rooms it acts on run through a stretch with it and without it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.heating import heat_over_draw
from warmeter.core.claims.arbiter import Claim, by_minute
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.costing import drawn_of
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Room
from warmeter.core.home.rules import Rule, SetLevel, SetPoint
from warmeter.core.home.zones import Zone
from warmeter.core.rule.actions import zone_claims
from warmeter.core.rule.run import RuleRun
from warmeter.core.tariff.prices import minutes_between
from warmeter.core.thermal.proportional import Proportional, proportional_run
from warmeter.core.thermal.room_fit import Estimate, range_of
from warmeter.core.timetable.day import blocks_between, setpoint_decisions, timetable_claims
from warmeter.core.truth.scope import Scope
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, W_MIN_PER_KWH
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel, boundary_of
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.day_forecasts import FEW_DRAWS
from warmeter.service.forecast.outdoor_forecast import outdoor_between
from warmeter.service.forecast.room_models import room_forecast_inputs
from warmeter.service.readings.room_logs import clear_sky
from warmeter.service.tariffs.pricing import known_prices

MOST_DAYS, BAND_K = 62, 0.5
_SAVED: "Cache[RuleSaving]" = Cache(64)


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleSaving:
    """What a rule would have saved over a stretch, with the 95 % range of the fitted rooms.

    Parameters
    ----------
    heat_kwh : Learnt
        Heat less; below zero more.
    cost : Learnt or None
        Money less at the hours' prices; None without a tariff for all of them.
    rooms, unfitted : tuple of str
        Rooms that were run, and those that could not be, since they are not fitted.
    """

    heat_kwh: Estimate
    cost: Estimate | None
    rooms: tuple[str, ...]
    unfitted: tuple[str, ...]


def rule_saving(app: App, home: Home, rule: Rule, rule_run: RuleRun, scope: Scope) -> RuleSaving | None:
    """Return what a rule on heating setpoints would have saved; None where none of its rooms is fitted.

    Raises
    ------
    NotKnowable
        If the stretch is longer than two months, or nothing says how cold it was.

    Notes
    -----
    Heaters give heat in proportion, so that no noise of switching stands in the difference; windows are taken as
    shut in both runs, so that what an open one would have cost is not in it.
    """
    if scope.end_ms - scope.start_ms > MOST_DAYS * MS_PER_DAY:
        raise NotKnowable("Savings are worked out over two months at most.", "Choose a shorter stretch.")
    fits = app.work.fits(home.id)
    ids = [i for step in rule.then if isinstance(step, SetLevel | SetPoint) for i in step.zone_ids]
    zones = [zone for zone in home.zones if zone.id in ids]
    rooms = [(zone, home.room(room_id)) for zone in zones for room_id in zone.room_ids if home.heater_of(room_id)]
    ready = [
        (z, r) for z, r in rooms if (f := fits.get(r.id)) is not None and f.fit.is_fit_for_use and f.fit.watts_known
    ]
    if not ready:
        return None
    _, revision = app.homes.load(home.id)
    stamp = app.work.fit_stamp(home.id)
    key = str(app.engine.url), home.id, revision, rule, rule_run, scope.start_ms, scope.end_ms, repr(stamp)
    return _SAVED.get(key, lambda: _saving(app, home, rule, rule_run, scope, ready, rooms))


def _saving(
    app: App,
    home: Home,
    rule: Rule,
    rule_run: RuleRun,
    scope: Scope,
    ready: Sequence[tuple[Zone, Room]],
    rooms: Sequence[tuple[Zone, Room]],
) -> RuleSaving:
    start = scope.start_ms // MS_PER_MIN * MS_PER_MIN
    minutes = (scope.end_ms - start) // MS_PER_MIN
    prices = known_prices(app, home, minutes_between(start, start + minutes * MS_PER_MIN))
    heat = np.zeros(FEW_DRAWS)
    cost: Floats | None = np.zeros(FEW_DRAWS)
    for zone, room in ready:
        saved_w, over = _saved_w(app, home, zone, room, rule, rule_run, scope, start, minutes)
        kwh = saved_w / W_MIN_PER_KWH
        heat += kwh.sum(axis=1)
        heater = home.heater_of(room.id)
        price = None if heater is None else drawn_of(heater, home.source(heater.source_id), prices, minutes).by_step
        cost = None if cost is None or price is None else cost + (kwh / over) @ price
    names = {room.id for _, room in ready}
    return RuleSaving(
        heat_kwh=range_of(heat),
        cost=None if cost is None else range_of(cost),
        rooms=tuple(room.name for _, room in ready),
        unfitted=tuple(room.name for _, room in rooms if room.id not in names),
    )


def _saved_w(
    app: App, home: Home, zone: Zone, room: Room, rule: Rule, rule_run: RuleRun, scope: Scope, start: int, minutes: int
) -> tuple[Floats, Floats]:
    """Return by draw and minute the heat less with the rule [W], and the heat for each unit drawn."""
    clock, end = scope.clock, start + minutes * MS_PER_MIN
    outdoor, _, certain = outdoor_between(app, home, clock, app.as_of_ms(home.id), start, end, None)
    heater = home.heater_of(room.id)
    assert heater is not None  # rooms without a heater do not come here
    model, state, _, _ = room_forecast_inputs(
        app, home, room, heater, app.work.fits(home.id).get(room.id), start, outdoor, minutes, FEW_DRAWS
    )
    stretch = HeatingStretch(
        start_ms=start,
        outdoor_c=outdoor.outdoor_c,
        offsets_k=np.zeros(FEW_DRAWS),
        certain=certain,
        clear_sky_w_m2=clear_sky(home, start, 60.0, minutes),
        start_c=state,
    )
    written = timetable_claims(blocks_between(home, zone, clock, start, end), {})
    ruled = [*written, *zone_claims(home, zone, rule, rule_run, clock, end_ms=end)]
    without, with_rule = (_heat_w(home, zone, model, stretch, claims) for claims in (written, ruled))
    over = heat_over_draw(heater, home.source(heater.source_id), outdoor.outdoor_c[None, :-1])
    return without - with_rule, over


def _heat_w(home: Home, zone: Zone, model: RoomModel, stretch: HeatingStretch, claims: Sequence[Claim]) -> Floats:
    asked = setpoint_decisions(home, zone, claims, stretch.start_ms, stretch.end_ms)
    setpoint = by_minute(asked, stretch.start_ms, stretch.end_ms)
    heater = Proportional(full_heat_w=model.control.full_heat_w, band_k=BAND_K)
    return proportional_run(model.step, boundary_of(model, stretch, setpoint), heater).heat_w
