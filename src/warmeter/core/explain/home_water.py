"""The water of a home worked out as a whole: each point with its cases, the next sensor, the alarm paths."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.home.devices import SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint
from warmeter.core.water.alarm_path import ReachedSensor, ShutTrend, next_test, sensors_of, shut_trend
from warmeter.core.water.detection_ways import WayLitres, detection_ways
from warmeter.core.water.point_failures import FailureLitres, point_failures
from warmeter.core.water.sensor_places import SensorOffer, sensor_offer
from warmeter.core.water.usual_points import flow_of, leaks_of


@dataclass(frozen=True, slots=True, kw_only=True)
class PointWater:
    """A point: flow of a burst [L/min], leaks a year, sensors that get wet, the six cases, the ways of noticing."""

    point: WaterPoint
    flow_l_min: float
    leaks_year: float
    sensors: tuple[ReachedSensor, ...]
    failures: tuple[FailureLitres, ...]
    ways: tuple[WayLitres, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PathWater:
    """An alarm path of water: how its seconds to shut grow, and when it is to be tested again."""

    chain: SafetyChain
    trend: ShutTrend | None
    next_test: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeWater:
    """All points by their ids, where another sensor would go, and the alarm paths."""

    points: dict[str, PointWater]
    offer: SensorOffer
    paths: tuple[PathWater, ...]

    def is_covered(self, point_id: str) -> bool:
        """Whether a leak sensor in service gets wet by a point's water."""
        return bool(self.points[point_id].sensors)


def home_water(home: Home) -> HomeWater:
    """Return the water of a home worked out."""
    practice = home.water_practice
    return HomeWater(
        points={
            point.id: PointWater(
                point=point,
                flow_l_min=flow_of(point),
                leaks_year=leaks_of(point),
                sensors=sensors_of(home, point),
                failures=point_failures(home, point),
                ways=detection_ways(home, point),
            )
            for point in home.water_points
        },
        offer=sensor_offer(home),
        paths=tuple(
            PathWater(
                chain=chain,
                trend=shut_trend(chain, practice.shut_limit_s),
                next_test=next_test(chain, practice.test_every_days),
            )
            for chain in home.safety_chains
            if chain.kind == "leak"
        ),
    )
