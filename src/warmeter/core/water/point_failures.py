"""Seconds and litres from a burst at a point until it is shut, as it should be and with each part failing."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint
from warmeter.core.units import S_PER_H, S_PER_MIN
from warmeter.core.water.alarm_path import (
    HAND_SHUT_S,
    USUAL_TOLD_S,
    ReachedSensor,
    paths_of,
    sensors_of,
    shuts_in,
    told_after,
    valves_told,
)
from warmeter.core.water.litres_until_shut import WaterFlow, litres
from warmeter.core.water.usual_points import USUAL_POINT, flow_of

Failure = Literal["valve_near", "valve_main", "alarm_home", "alarm_away", "battery_dead", "no_internet"]
FAILURES: tuple[Failure, ...] = ("valve_near", "valve_main", "alarm_home", "alarm_away", "battery_dead", "no_internet")
# A burst gives more or less than is reckoned with.
FLOW_SPREAD = 1 / 3


@dataclass(frozen=True, slots=True, kw_only=True)
class FailureLitres:
    """One case: who senses it and what shuts it ("" a person), seconds from the burst, and litres with their range.

    ``told_s`` is None where nothing tells. ``begin_s`` is when it begins to be shut, ``close_s`` how long that takes.
    ``assumed`` names what of the times was taken as usual.
    """

    case: Failure
    sensed_by: str
    shut_by: str
    told_s: float | None
    begin_s: float
    close_s: float
    litres: float
    low_l: float
    high_l: float
    assumed: tuple[str, ...]

    @property
    def shut_at_s(self) -> float:
        """From the burst until it is shut [s]."""
        return self.begin_s + self.close_s


@dataclass(frozen=True, slots=True)
class _Way:
    """A way to the end of the water: who senses, who shuts, and when."""

    sensor: ReachedSensor | None
    valve: Device | None
    told_s: float | None
    begin_s: float
    close_s: float
    assumed: tuple[str, ...] = ()


def point_failures(home: Home, point: WaterPoint) -> tuple[FailureLitres, ...]:
    """Return the six cases of a point's burst, in the order of ``FAILURES``.

    Notes
    -----
    docs/methods Q4. The valve nearest to the point acts first; where it is stuck the next one acts once the flow is
    still seen, else a hand; a sensor whose battery is dead leaves it to the next one that the water comes to, else to
    whoever sees it; what does not work without internet does not tell then. Water that no valve can shut (a sump,
    condensate) is left to people.
    """
    ways: dict[Failure, _Way] = {
        "valve_near": _near(home, point, sensors_of(home, point)),
        "valve_main": _main(home, point),
        "alarm_home": _by_people(home, sensors_of(home, point), home.water_practice.home_min),
        "alarm_away": _by_people(home, sensors_of(home, point), home.water_practice.away_min),
        "battery_dead": _near(home, point, sensors_of(home, point)[1:]),
        "no_internet": _offline(home, point),
    }
    return tuple(_litres(case, ways[case], flow_of(point)) for case in FAILURES)


def _litres(case: Failure, way: _Way, flow_l_min: float) -> FailureLitres:
    low, at, high = (
        litres(WaterFlow(flow_l_min=flow_l_min * factor), way.begin_s, way.close_s)
        for factor in (1 - FLOW_SPREAD, 1.0, 1 + FLOW_SPREAD)
    )
    return FailureLitres(
        case=case,
        sensed_by="" if way.sensor is None else way.sensor.device.name,
        shut_by="" if way.valve is None else way.valve.name,
        told_s=way.told_s,
        begin_s=way.begin_s,
        close_s=way.close_s,
        litres=at,
        low_l=low,
        high_l=high,
        assumed=way.assumed,
    )


def _seen(home: Home) -> _Way:
    """Return the way without any sensor: somebody sees it and shuts it by hand."""
    seen = home.water_practice.seen_h * S_PER_H
    return _Way(None, None, None, seen, HAND_SHUT_S, ("until it is seen",))


def _told(home: Home, sensor: ReachedSensor) -> tuple[float, tuple[str, ...]]:
    """Return when a sensor has told [s], and what of it is assumed."""
    told = told_after(home, sensor.device)
    assumed = (("until it is wet",) if not sensor.wet.is_measured else ()) + (
        ("until it is told",) if not told.is_measured else ()
    )
    return sensor.wet.s + told.s, assumed


def _by_people(home: Home, sensors: Sequence[ReachedSensor], act_min: float) -> _Way:
    if not sensors:
        return _seen(home)
    told, assumed = _told(home, sensors[0])
    return _Way(sensors[0], None, told, told + act_min * S_PER_MIN, HAND_SHUT_S, (*assumed, "until a person acts"))


def _near(home: Home, point: WaterPoint, sensors: Sequence[ReachedSensor]) -> _Way:
    if not sensors:
        return _seen(home)
    valves = valves_told(home, point, sensors[0].device) if USUAL_POINT[point.kind].can_be_shut else ()
    if not valves:
        return _by_people(home, sensors, home.water_practice.home_min)
    told, assumed = _told(home, sensors[0])
    shut = shuts_in(home, valves[0])
    return _Way(
        sensors[0], valves[0], told, told, shut.s, assumed + (() if shut.is_measured else ("until it is shut",))
    )


def _main(home: Home, point: WaterPoint) -> _Way:
    """Return the way where the nearest valve is stuck: the next one, else a hand."""
    sensors = sensors_of(home, point)
    near = _near(home, point, sensors)
    if near.valve is None or near.told_s is None:
        return near
    others = [v for v in valves_told(home, point, sensors[0].device) if v.id != near.valve.id]
    if not others:
        return _by_people(home, sensors, home.water_practice.home_min)
    shut = shuts_in(home, others[-1])
    begin = near.told_s + near.close_s + home.water_practice.still_flowing_s
    assumed = (*near.assumed, "until the flow is still seen", *(() if shut.is_measured else ("until it is shut",)))
    return _Way(sensors[0], others[-1], near.told_s, begin, shut.s, tuple(dict.fromkeys(assumed)))


def _offline(home: Home, point: WaterPoint) -> _Way:
    """Return the way without internet: by what works without it."""
    sensors = [each for each in sensors_of(home, point) if each.device.works_without_internet]
    if not sensors:
        return _seen(home)
    way = _near(home, point, sensors)
    if way.valve is None:
        return way
    valve = way.valve
    needed = next(c for c in paths_of(home, sensors[0].device.id) if valve.id in c.device_ids)
    if all(home.device(key).works_without_internet for key in needed.device_ids):
        return way
    return _by_people(home, sensors, home.water_practice.home_min)


def litres_with_sensor(home: Home, point: WaterPoint, wet_s: float) -> float:
    """Return the litres of a point with a new sensor that is wet after a time: by its valve where one can, else a person."""
    told = wet_s + USUAL_TOLD_S
    valves = [home.device(key) for key in point.valve_ids if home.device(key).is_in_service]
    flow = WaterFlow(flow_l_min=flow_of(point))
    if valves and USUAL_POINT[point.kind].can_be_shut:
        return litres(flow, told, shuts_in(home, valves[0]).s)
    return litres(flow, told + home.water_practice.home_min * S_PER_MIN, HAND_SHUT_S)


def litres_unseen(home: Home, point: WaterPoint) -> float:
    """Return the litres of a point that nothing senses, until somebody sees it."""
    return litres(WaterFlow(flow_l_min=flow_of(point)), home.water_practice.seen_h * S_PER_H, HAND_SHUT_S)
