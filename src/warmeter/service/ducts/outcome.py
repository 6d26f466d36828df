"""What a duct system makes of its rooms: each choice of sensors, the fan always on, a day by the timetable, a trim."""

from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.ducts.shared_air import DuctRun, DuctWish, duct_run
from warmeter.core.errors import HomeError
from warmeter.core.forecast.duct_rooms import (
    ChoiceOutcome,
    DuctEnergy,
    TrimProposal,
    choices_of,
    duct_energy,
    settled_day,
    shared_rooms,
    steady_rooms,
    trim_proposal,
    weights_of,
)
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem, SensorChoice, VentRound
from warmeter.core.timetable.series import asked_series_c
from warmeter.core.units import MIN_PER_DAY
from warmeter.service.app import App
from warmeter.service.cache import Cache


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctDay:
    """A day by the timetable under one choice of sensors: the run by minute, what was asked, and its energy."""

    choice: SensorChoice
    room_ids: tuple[str, ...]
    run: DuctRun
    asked_c: Floats
    energy: DuctEnergy


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctOutcome:
    """All that the page of ducts shows of a system at one setpoint and outdoor temperature [°C]."""

    set_c: float
    outdoor_c: float
    choices: tuple[ChoiceOutcome, ...]
    always: ChoiceOutcome
    is_cooling: bool
    day: DuctDay
    measured: VentRound | None
    trim: TrimProposal | None


_FOUND: Cache[DuctOutcome] = Cache(16)


def duct_outcome(
    app: App,
    home: Home,
    system: DuctSystem,
    *,
    set_c: float,
    outdoor_c: float,
    on: date,
    lead: int,
    is_cooling: bool = False,
) -> DuctOutcome:
    """Return what a duct system makes of its rooms; ``lead`` is the place of the choice whose day is shown.

    ``set_c`` is the heating setpoint, or the cooling limit where it cools.

    Raises
    ------
    HomeError
        If no heated room has an open vent, or no sensor may lead.
    """
    key = home, system.id, set_c, outdoor_c, on, lead, is_cooling
    return _FOUND.get(key, lambda: _outcome(app, home, system, set_c, outdoor_c, on, lead, is_cooling=is_cooling))


def _outcome(
    app: App, home: Home, system: DuctSystem, set_c: float, outdoor_c: float, on: date, lead: int, *, is_cooling: bool
) -> DuctOutcome:
    rooms, choices = shared_rooms(home, system), choices_of(home, system)
    if not choices:
        raise HomeError("say in which room the thermostat is, or which sensors could lead")
    chosen = choices[min(max(lead, 0), len(choices) - 1)]
    if is_cooling and system.cooling_w is None:
        raise HomeError(f"type what the coil of {system.name} takes away, under Plant, before its cooling is looked at")

    def settled_by(one: DuctSystem, choice: SensorChoice) -> ChoiceOutcome:
        day, _ = settled_day(home, one, rooms, choice, set_c=set_c, outdoor_c=outdoor_c, is_cooling=is_cooling)
        return day

    settled = tuple(settled_by(system, each) for each in choices)
    always = replace(system, fan_mode="always")
    measured = system.rounds[-1] if system.rounds else None
    # What was measured and moved since belongs to notches that are no longer there.
    if measured is not None and measured.is_cooling != is_cooling:
        measured = None
    if measured is not None and dict(measured.notches) != {vent.id: vent.notch for vent in system.vents}:
        measured = None
    return DuctOutcome(
        set_c=set_c,
        outdoor_c=outdoor_c,
        choices=settled,
        always=settled_by(always, chosen),
        is_cooling=is_cooling,
        day=_day(app, home, system, chosen, set_c, outdoor_c, on, is_cooling=is_cooling),
        measured=measured,
        trim=None
        if measured is None
        else trim_proposal(home, system, measured, chosen, set_c=set_c, outdoor_c=outdoor_c),
    )


def _day(
    app: App,
    home: Home,
    system: DuctSystem,
    choice: SensorChoice,
    set_c: float,
    outdoor_c: float,
    on: date,
    *,
    is_cooling: bool,
) -> DuctDay:
    """Return a day by the timetable of the leading rooms' zone, after the same day once before it.

    Where the coil cools, the level's cooling limit is kept beside the heating setpoints: a pair with its gap.
    """
    rooms = shared_rooms(home, system)
    zone = home.zone_of_room(choice.room_ids[0])
    day = np.full(MIN_PER_DAY, set_c)
    if zone is not None:
        asked = asked_series_c(home, zone, app.clock(home), on, 1, 1)
        day = asked[:MIN_PER_DAY] if asked.size >= MIN_PER_DAY else np.resize(asked, MIN_PER_DAY)
    weights = weights_of(rooms, choice)
    limit = np.full(2 * MIN_PER_DAY, set_c) if is_cooling else None
    wish = DuctWish(heating_c=np.concatenate([day, day]), cooling_c=limit, weights=weights)
    outdoors = np.full(2 * MIN_PER_DAY + 1, outdoor_c)
    begin_c = set_c if is_cooling else float(day[0])
    start = steady_rooms(rooms, system, weights, begin_c, outdoor_c, is_cooling=is_cooling)
    run = duct_run(rooms, system, wish, outdoors, start)
    last = DuctRun(
        room_c=run.room_c[:, MIN_PER_DAY:],
        stages=run.stages[MIN_PER_DAY:],
        fan=run.fan[MIN_PER_DAY:],
        heat_w=run.heat_w[MIN_PER_DAY:],
    )
    return DuctDay(
        choice=choice,
        room_ids=rooms.room_ids,
        run=last,
        asked_c=day,
        energy=duct_energy(home, system, last, outdoors[MIN_PER_DAY:]),
    )
