"""Places for another leak sensor in a home, and what each would save (Q5)."""

from dataclasses import dataclass
from math import hypot

from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint
from warmeter.core.water.alarm_path import sensors_of
from warmeter.core.water.next_sensor import LeakPoint, NextSensors, SensorPlace, next_sensors
from warmeter.core.water.point_failures import litres_unseen, litres_with_sensor, point_failures
from warmeter.core.water.usual_points import flow_of, leaks_of

# Water on a level floor comes so far before much of it is lost; a sensor beside a point is wet so soon.
REACH_M, BESIDE_WET_S = 1.5, 20.0
MOST_OFFERED = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedPlace:
    """A place beside a point: its flow [L/min], litres of a burst now and then, litres a year that it saves, alone and next."""

    point: WaterPoint
    flow_l_min: float
    now_l: float
    then_l: float
    saved_alone_l: float
    saved_next_l: float
    covers: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorOffer:
    """The places in the order of choosing, and the best two where they are others."""

    places: tuple[OfferedPlace, ...]
    found: NextSensors


def apart_m(one: WaterPoint, other: WaterPoint) -> float | None:
    """Return how far two points of one room stand apart [m]; None where they are in two rooms or have no place."""
    if one.id == other.id:
        return 0.0
    if one.room_id is None or one.room_id != other.room_id or one.at is None or other.at is None:
        return None
    return hypot(one.at.x_m - other.at.x_m, one.at.y_m - other.at.y_m)


def sensor_offer(home: Home) -> SensorOffer:
    """Return where another leak sensor would save most: beside each point that nothing covers."""
    points = home.water_points
    near = {
        place.id: tuple(p.id for p in points if (apart := apart_m(place, p)) is not None and apart <= REACH_M + 1e-9)
        for place in points
    }
    covered = tuple(point.id for point in points if sensors_of(home, point))
    known = {point.id: point_failures(home, point)[0].litres for point in points}
    then = {point.id: litres_with_sensor(home, point, BESIDE_WET_S) for point in points}
    leak_points = [
        LeakPoint(
            id=p.id,
            leaks_year=leaks_of(p),
            litres_without=known[p.id] if p.id in covered else litres_unseen(home, p),
            litres_with=then[p.id],
        )
        for p in points
    ]
    have = SensorPlace(id="what is there", covers=covered)
    places = [SensorPlace(id=key, covers=ids) for key, ids in near.items() if key not in covered]
    found = next_sensors(leak_points, [*places, have], [have.id], MOST_OFFERED)
    without = {each.id: each.litres_without for each in leak_points}
    return SensorOffer(
        places=tuple(
            OfferedPlace(
                point=home.water_point(each.id),
                flow_l_min=flow_of(home.water_point(each.id)),
                now_l=without[each.id],
                then_l=then[each.id],
                saved_alone_l=found.alone_l[each.id],
                saved_next_l=each.gain_l,
                covers=near[each.id],
            )
            for each in found.greedy
        ),
        found=found,
    )
