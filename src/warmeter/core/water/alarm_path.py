"""The way from water on the floor to a closed valve: what senses it, what shuts it, and how soon by its own tests."""

from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.errors import NotKnowable
from warmeter.core.home.devices import Device, SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.water import WaterPoint
from warmeter.core.sensing.drift import drift_of

# Taken until a test says otherwise: at the sensor, told, a motor valve, a hand at a tap.
USUAL_WET_S, USUAL_TOLD_S, USUAL_SHUT_S, HAND_SHUT_S = 30.0, 15.0, 15.0, 10.0
# The slope of a valve's seconds is taken from its last tests.
TESTS_OF_TREND = 6
MOST_DAYS = 730.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathSeconds:
    """A time of the way [s], and whether a test or a person said it."""

    s: float
    is_measured: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachedSensor:
    """A leak sensor in service that a point's water comes to, and when."""

    device: Device
    wet: PathSeconds


def sensors_of(home: Home, point: WaterPoint) -> tuple[ReachedSensor, ...]:
    """Return the leak sensors in service that a point's water comes to, the first wet first."""
    found = []
    for reach in point.reaches:
        device = home.device(reach.device_id)
        if device.is_in_service:
            wet = USUAL_WET_S if reach.wet_s is None else reach.wet_s
            found.append(ReachedSensor(device=device, wet=PathSeconds(s=wet, is_measured=reach.wet_s is not None)))
    return tuple(sorted(found, key=lambda each: each.wet.s))


def paths_of(home: Home, device_id: str) -> tuple[SafetyChain, ...]:
    """Return the alarm paths of water that a device stands in."""
    return tuple(c for c in home.safety_chains if c.kind == "leak" and device_id in c.device_ids)


def told_after(home: Home, sensor: Device) -> PathSeconds:
    """Return how long a sensor takes to tell: by the last test of its alarm path that came to it, else as usual."""
    tests = sorted((t for c in paths_of(home, sensor.id) for t in c.tests if t.told_s is not None), key=lambda t: t.on)
    if tests and tests[-1].told_s is not None:
        return PathSeconds(s=tests[-1].told_s, is_measured=True)
    return PathSeconds(s=USUAL_TOLD_S, is_measured=False)


def shuts_in(home: Home, valve: Device) -> PathSeconds:
    """Return how long a valve takes to shut once told: by the last test that came to it, else as usual."""
    tests = sorted((t for c in paths_of(home, valve.id) for t in c.tests if t.shut_s is not None), key=lambda t: t.on)
    if tests and tests[-1].shut_s is not None:
        return PathSeconds(s=tests[-1].shut_s, is_measured=True)
    return PathSeconds(s=USUAL_SHUT_S, is_measured=False)


def valves_told(home: Home, point: WaterPoint, sensor: Device) -> tuple[Device, ...]:
    """Return the valves of a point that a sensor's alarm paths tell, the nearest first."""
    told = {key for chain in paths_of(home, sensor.id) for key in chain.device_ids}
    valves = (home.device(key) for key in point.valve_ids if key in told)
    return tuple(valve for valve in valves if valve.is_in_service)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShutTrend:
    """How the seconds of a valve grow: by 30 days [s], and when they reach the limit, with its range.

    The date is None where it does not grow, ``latest`` None where the slowest growth never comes there.
    """

    growth_30_days_s: float
    since: date
    reaches: date | None
    earliest: date | None
    latest: date | None

    @property
    def is_clear(self) -> bool:
        """Whether even the slower half of the slopes grows, and comes to the limit."""
        return self.latest is not None


def shut_trend(chain: SafetyChain, limit_s: float) -> ShutTrend | None:
    """Return how the seconds to shut of an alarm path grow over its last six tests; None with fewer than three.

    Notes
    -----
    docs/methods D10. The range of the date is that of the middle half of all slopes.
    """
    tests = sorted((t for t in chain.tests if t.shut_s is not None), key=lambda t: t.on)[-TESTS_OF_TREND:]
    if not tests:
        return None
    first, last = tests[0].on, tests[-1]
    try:
        drift = drift_of([(t.on - first).days for t in tests], [t.shut_s or 0.0 for t in tests])
    except NotKnowable:
        return None
    left = limit_s - (drift.level + drift.slope_per_day * (last.on - first).days)

    def reached(slope: float) -> date | None:
        days = left / slope if slope > 0 else None
        return None if days is None or days > MOST_DAYS else last.on + timedelta(days=max(0, round(days)))

    return ShutTrend(
        growth_30_days_s=drift.per_30_days,
        since=first,
        reaches=reached(drift.slope_per_day),
        earliest=reached(drift.high_per_day),
        latest=reached(drift.low_per_day),
    )


def next_test(chain: SafetyChain, every_days: int) -> date | None:
    """Return when an alarm path is to be tested again, None where it never was."""
    last = max((test.on for test in chain.tests), default=None)
    return None if last is None else last + timedelta(days=every_days)
