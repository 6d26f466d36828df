"""A sensor against a reference (D1), and several sensors as one (D2)."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.errors import OutOfRange, WarmeterError

CountRule = Literal["one", "mean", "weighted", "occupied", "coldest", "warmest"]


@dataclass(frozen=True, slots=True)
class CalibrationLine:
    """value = gain × raw + offset; gain a ratio, offset in the sensor's unit."""

    gain: float = 1.0
    offset: float = 0.0


def calibrate(points: Sequence[tuple[float, float]]) -> CalibrationLine:
    """Return the line through one or two (raw, true) points.

    Raises
    ------
    WarmeterError
        If there are none or more than two, or both have the same raw value.

    References
    ----------
    docs/methods D1. An offset over 2 K means a bad place, not a bad sensor.
    """
    if len(points) == 1:
        return CalibrationLine(offset=points[0][1] - points[0][0])
    if len(points) != 2 or points[0][0] == points[1][0]:
        raise WarmeterError("a calibration takes one point, or two with different raw values")
    (raw_a, true_a), (raw_b, true_b) = points
    gain = (true_b - true_a) / (raw_b - raw_a)
    return CalibrationLine(gain=gain, offset=true_a - gain * raw_a)


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorValue:
    """One sensor now: value, weight, whether its room is occupied, and how old it is [s]."""

    value: float
    age_s: float
    weight: float = 1.0
    is_occupied: bool = False


def counted(sensors: Sequence[SensorValue], rule: CountRule, *, max_age_s: float) -> tuple[float | None, int]:
    """Return (the value that counts, number of sensors that entered); (None, 0) if none is fresh.

    ``one`` takes the first fresh one; an age equal to ``max_age_s`` is still fresh; ``occupied`` falls back
    to all where no fresh one is occupied.

    Raises
    ------
    OutOfRange
        If weights that count do not add up to more than zero.

    References
    ----------
    docs/methods D2.
    """
    fresh = [s for s in sensors if s.age_s <= max_age_s + 1e-9]
    if not fresh:
        return None, 0
    if rule == "one":
        return fresh[0].value, 1
    if rule == "coldest":
        return min(s.value for s in fresh), len(fresh)
    if rule == "warmest":
        return max(s.value for s in fresh), len(fresh)
    if rule == "weighted":
        total = sum(s.weight for s in fresh)
        if not total > 0:
            raise OutOfRange("sum of weights", total, 0.0, float("inf"))
        return sum(s.weight * s.value for s in fresh) / total, len(fresh)
    chosen = [s for s in fresh if s.is_occupied] if rule == "occupied" else fresh
    chosen = chosen or fresh
    return sum(s.value for s in chosen) / len(chosen), len(chosen)
