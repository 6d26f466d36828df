"""Whether devices are still heard, in their own rhythm, and how long a battery lasts."""

from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.errors import NotKnowable
from warmeter.core.readings.record import USUAL_HOLD_S
from warmeter.core.sensing.drift import drift_of
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S

QUIET_RHYTHMS = 5.0
LEAST_QUIET_MS = 10 * MS_PER_MIN
LEAST_BATTERY_DAYS = 7.0


def quiet_after_ms(rhythm_s: float | None, hold_s: int = USUAL_HOLD_S["held"]) -> int:
    """Return after how long without a word a device counts as gone quiet [ms], by its usual time between messages [s].

    Where that is not known yet, ``hold_s`` is how long what it tells may speak [s].
    """
    if rhythm_s is None or rhythm_s <= 0:
        return hold_s * MS_PER_S
    return max(LEAST_QUIET_MS, round(QUIET_RHYTHMS * rhythm_s * MS_PER_S))


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardDevice:
    """When a device was last heard [ms UTC], its rhythm [s, None where not known], and whether it has gone quiet.

    ``hold_s`` is how long what it tells most often may speak [s].
    """

    device_id: str
    last_ms: int
    rhythm_s: float | None
    now_ms: int
    hold_s: int = USUAL_HOLD_S["held"]

    @property
    def quiet_from_ms(self) -> int:
        """From when on it counts as gone quiet [ms UTC]."""
        return self.last_ms + quiet_after_ms(self.rhythm_s, self.hold_s)

    @property
    def is_quiet(self) -> bool:
        """Whether it has gone quiet."""
        return self.now_ms >= self.quiet_from_ms


@dataclass(frozen=True, slots=True, kw_only=True)
class BatteryEnd:
    """When a battery will be empty [ms UTC], with its range; ``late_ms`` is None where it may last for ever."""

    at_ms: int
    early_ms: int
    late_ms: int | None


def battery_end(at_ms: Sequence[int], percent: Sequence[float], empty_percent: float = 0.0) -> BatteryEnd:
    """Return when a battery will be empty, by the middle of all slopes and the middle half of them.

    Raises
    ------
    NotKnowable
        If it was read over less than a week, or did not fall.

    References
    ----------
    docs/methods D10.
    """
    if not at_ms or at_ms[-1] - at_ms[0] < LEAST_BATTERY_DAYS * MS_PER_DAY:
        raise NotKnowable("Its battery was read over less than a week.", "Look again in a week.")
    days = [(at - at_ms[-1]) / MS_PER_DAY for at in at_ms]
    drift = drift_of(days, percent)
    left = drift.level - empty_percent
    if drift.slope_per_day >= 0 or drift.low_per_day >= 0:
        raise NotKnowable("Its battery did not fall.", "Look again when it has.")

    def after(slope: float) -> int:
        return at_ms[-1] + round(max(0.0, left) / -slope * MS_PER_DAY)

    return BatteryEnd(
        at_ms=after(drift.slope_per_day),
        early_ms=after(drift.low_per_day),
        late_ms=after(drift.high_per_day) if drift.high_per_day < 0 else None,
    )
