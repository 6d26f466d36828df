"""Loading the compiled kernels before anybody waits for them."""

from dataclasses import replace

import numpy as np

from warmeter.core.building.compiled import CompiledHome
from warmeter.core.building.groupings import Week, ZoneGroup, run_rooms
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.rules import MarkFact, PutBack, Rule
from warmeter.core.presence.agreement import agreed_trust
from warmeter.core.presence.room_probability import RoomSigns, room_probability
from warmeter.core.presence.witness_trust import witness_trust
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.run import rule_run_of
from warmeter.core.rule.tuning import Events, sweep_watch
from warmeter.core.signature.change_points import partition
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.recommending import propose
from warmeter.core.signature.states import split_levels
from warmeter.core.thermal.likelihood import LogFilter, Unlogged
from warmeter.core.thermal.proportional import Proportional, proportional_run
from warmeter.core.thermal.room_fit import RoomLog
from warmeter.core.thermal.simulate import (
    BoundaryConditions,
    OnOff,
    compile_rooms,
    controlled_run,
    latest_starts,
    tracked_state,
)
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.scope import Scope
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.season import SeasonBoundary, season_run


def load_kernels() -> None:
    """Call every compiled kernel once on a few steps."""
    room = RoomRc(air_out_w_k=20, air_fabric_w_k=150, fabric_out_w_k=20, air_j_k=3e5, fabric_j_k=3e6)
    step = compile_rooms([room], 1000.0, 60.0)
    outdoor, flat, start = np.zeros((1, 4)), np.zeros((1, 3)), np.full((1, 3), 15.0)
    boundary = BoundaryConditions(outdoor_c=outdoor, gain_w=flat, setpoint_c=np.full(3, 20.0), start_c=start)
    run = controlled_run(step, boundary, OnOff(full_heat_w=1000, band_k=0.4, min_on_steps=1, min_off_steps=1))
    latest_starts(step, boundary, run, full_heat_w=1000.0, target_c=15.1, due=3, earliest=0)
    tracked_state(
        step, outdoor_c=np.zeros(4), heat_w=np.zeros(3), gain_w=flat, measured_c=np.full(4, 15.0), start_c=start
    )
    _load_filter(room)
    heater = Proportional(full_heat_w=1000.0, band_k=0.5)
    proportional_run(step, boundary, heater)
    season = SeasonBoundary(
        outdoor_c=np.zeros(4), gain_w=np.zeros(3), asked_c=np.array([15.0, 15.0, 20.0]), start_c=np.full(3, 15.0)
    )
    season_run(step, season, OnOff(full_heat_w=1000, band_k=0.4, min_on_steps=1, min_off_steps=1))
    _load_signatures()
    _load_groupings()
    _load_rules()
    _load_presence()


def _load_filter(room: RoomRc) -> None:
    log = RoomLog(
        step_s=300.0,
        room_c=np.full(4, 18.0),
        outdoor_c=np.zeros(4),
        heat_w=np.full(3, 500.0),
        clear_sky_w_m2=np.zeros(3),
        day=np.zeros(3, dtype=np.int64),
    )
    lagging = replace(room, emitter_lag_s=300.0)
    unlogged = Unlogged(gain_w=50.0, sun_m2=0.1, quick_w=30.0, slow_w=30.0, local_k=0.1, noise_k=0.1)
    LogFilter(log, log.clear_sky_w_m2, 1000.0).deviance(lagging, unlogged)


def _load_signatures() -> None:
    power = np.full(1440, 1.0)
    power[300:330], power[700:730] = 500.0, 500.0
    propose(power, 60.0, activity(power, 60.0), np.zeros(power.size, dtype=np.int64))
    partition(np.array([0.0, 0.0, 9.0, 9.0]), 1.0)
    split_levels(np.array([0.0, 0.1, 9.0]), 2)


def _load_rules() -> None:
    """Run a rule whose watch is compared, moved and a difference, and sweep it."""
    one, other = (Signal(quantity="room_temperature", subject_id=key) for key in ("a", "b"))
    at = np.arange(4, dtype=np.int64) * MS_PER_MIN
    values = np.array([20.0, 22.0, 19.0, 21.0])
    scope = Scope(
        start_ms=0, end_ms=300_000, clock=LocalClock("UTC"), tracks={k: Track(at, values) for k in (one, other)}
    )
    over = Compared(of=one, how="over", value=21.0, hysteresis=0.5)
    moved = Moving(of=one, how="rising", by=0.5, within_s=600)
    less = Compared(of=one, minus=other, how="over", value=0.0)
    rule = Rule(
        id="r", name="r", watch=((over, moved, less),), then=(MarkFact(word="x"),), put_back=PutBack(after_s=60)
    )
    rule_run_of(rule, ConditionEvaluator(scope))
    nothing = np.zeros(0, dtype=np.int64)
    sweep_watch(Track(at, values), [21.0], [0.5], [0.0], Events(begin_ms=nothing, until_ms=nothing), end_ms=300_000)


def _load_groupings() -> None:
    one, none = np.ones(1), np.zeros(1, dtype=np.int64)
    home = CompiledHome(
        room_ids=("r",),
        a=-np.eye(3) / 1e4,
        b=np.zeros((3, 2)),
        fire=np.zeros((3, 1)),
        heater_ids=("h",),
        heater_room=none,
        heater_source=none,
        full_w=one,
        band_k=one,
        source_ids=("s",),
        most_w=one,
        plates=(),
    )
    week = Week(outdoor_c=np.zeros(2), gain_w=np.zeros((1, 2)), needs_c=np.zeros((1, 2)), price=None)
    run_rooms(home, week, (ZoneGroup(name="z", rooms=(0,), setpoint_c=np.zeros(2), weights=(1.0,)),))


def _load_presence() -> None:
    said = np.array([TRUE, TRUE, FALSE, FALSE], dtype=np.int8)
    agreed_trust([said, said], [(0.9, 0.9), (0.8, 0.8)])
    witness_trust(said, said, 2)
    room_probability(
        RoomSigns(
            names=("motion",),
            speaks=np.array([[True, False, False, True]]),
            is_known=np.ones((1, 4), dtype=bool),
            passing=None,
            elsewhere=None,
            hour=np.zeros(4, dtype=np.int64),
            people=1,
            use="living",
        )
    )
