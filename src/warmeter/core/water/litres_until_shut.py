"""How many litres flow before water is shut, if all works and if parts of the way fail (Q4)."""

from dataclasses import dataclass, replace
from math import exp
from typing import Literal

from warmeter.core.errors import within
from warmeter.core.units import S_PER_MIN

FailureCase = Literal["works", "sensor_dead", "valve_stuck", "both"]


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterFlow:
    """What flows from a burst on [L/min]; with ``tau_s`` it declines to ``to_l_min`` with that time constant [s]."""

    flow_l_min: float
    to_l_min: float | None = None
    tau_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AlarmTimes:
    """The way of the word, one after another [s]: water at the sensor, sensed, told, acted; then the valve closes."""

    wet_s: float
    sensed_s: float
    told_s: float
    acted_s: float
    shut_s: float

    @property
    def begin_s(self) -> float:
        """From the burst until the valve begins to close [s]."""
        return self.wet_s + self.sensed_s + self.told_s + self.acted_s


@dataclass(frozen=True, slots=True, kw_only=True)
class AlarmFailures:
    """What may fail: the sensor and the valve by their probabilities (0 to 1), and what comes in their place.

    A dead sensor's water is noticed ``detect_s`` after the burst [s]; where the valve is stuck somebody closes another
    within ``stuck_shut_s`` after ``after_min`` more minutes.
    """

    p_dead: float
    p_stuck: float
    detect_s: float
    after_min: float
    stuck_shut_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LitresCase:
    """One case: how likely, when closing begins and ends [s], and the litres by then."""

    case: FailureCase
    p: float
    begin_s: float
    shut_at_s: float
    litres: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LitresUntilShut:
    """All cases with the expected litres, and the litres of each part of the way where all works."""

    cases: tuple[LitresCase, ...]
    expected_l: float
    parts_l: dict[str, float]


def litres(flow: WaterFlow, begin_s: float, shut_s: float) -> float:
    """Return what flows until a valve that begins to close at ``begin_s`` is shut ``shut_s`` later [L].

    Notes
    -----
    The flow declines exponentially from the burst on; the valve takes it off linearly (docs/methods Q4).
    """
    first = flow.flow_l_min / S_PER_MIN
    if flow.to_l_min is None or flow.tau_s is None:
        return first * (begin_s + shut_s / 2)
    last, tau = flow.to_l_min / S_PER_MIN, flow.tau_s
    left = exp(-begin_s / tau)
    closing = 0.0 if shut_s == 0 else tau * left * (1 - tau / shut_s * (1 - exp(-shut_s / tau)))
    return last * (begin_s + shut_s / 2) + (first - last) * (tau * (1 - left) + closing)


def litres_until_shut(flow: WaterFlow, times: AlarmTimes, failures: AlarmFailures) -> LitresUntilShut:
    """Return the litres in each case: all works, the sensor is dead, the valve is stuck, both.

    Raises
    ------
    OutOfRange
        If a probability lies outside 0 to 1.
    """
    dead = within("probability of a dead sensor", failures.p_dead, 0.0, 1.0)
    stuck = within("probability of a stuck valve", failures.p_stuck, 0.0, 1.0)
    found = []
    ways: tuple[tuple[FailureCase, bool, bool], ...] = (
        ("works", False, False),
        ("sensor_dead", True, False),
        ("valve_stuck", False, True),
        ("both", True, True),
    )
    for case, is_dead, is_stuck in ways:
        begin = failures.detect_s + times.told_s + times.acted_s if is_dead else times.begin_s
        begin += S_PER_MIN * failures.after_min if is_stuck else 0.0
        shut = failures.stuck_shut_s if is_stuck else times.shut_s
        p = (dead if is_dead else 1 - dead) * (stuck if is_stuck else 1 - stuck)
        found.append(
            LitresCase(case=case, p=p, begin_s=begin, shut_at_s=begin + shut, litres=litres(flow, begin, shut))
        )
    return LitresUntilShut(
        cases=tuple(found), expected_l=sum(each.p * each.litres for each in found), parts_l=_parts(flow, times)
    )


def _parts(flow: WaterFlow, times: AlarmTimes) -> dict[str, float]:
    """Return what flows in each part of the way where all works [L]."""
    parts, before, none = {}, 0.0, replace(times, wet_s=0.0, sensed_s=0.0, told_s=0.0, acted_s=0.0)
    for name in ("wet", "sensed", "told", "acted"):
        none = replace(none, **{f"{name}_s": getattr(times, f"{name}_s")})
        until = litres(flow, none.begin_s, 0.0)
        parts[name], before = until - before, until
    return {**parts, "shut": litres(flow, times.begin_s, times.shut_s) - before}
