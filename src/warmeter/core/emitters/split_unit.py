"""Split units: capacity, efficiency and power by outdoor temperature and load (C7)."""

from dataclasses import dataclass

from warmeter.core.errors import OutOfRange, within

RATED_OUTDOOR_C = {"cool": 35.0, "heat": 7.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitRating:
    """A split unit in one mode.

    Parameters
    ----------
    capacity_w, efficiency : float
        Rated heat or cold [W] and COP or EER at ``rated_outdoor_c`` [°C].
    capacity_slope_1_k, efficiency_slope_1_k : float
        Change of both a kelvin of outdoor temperature (ratio).
    degradation : float
        C_D of cycling, 0 to 0.25; variable-speed units 0 to 0.1.
    """

    capacity_w: float
    efficiency: float
    rated_outdoor_c: float
    capacity_slope_1_k: float
    efficiency_slope_1_k: float
    degradation: float = 0.1

    def __post_init__(self) -> None:
        if not self.capacity_w > 0:
            raise OutOfRange("capacity", self.capacity_w, 0.0, 100_000.0, "W")
        within("efficiency", self.efficiency, 0.5, 15.0)
        within("C_D", self.degradation, 0.0, 0.5)


@dataclass(frozen=True, slots=True, kw_only=True)
class SplitOutput:
    """What a split unit does under a load; powers in W, the rest ratios."""

    capacity_w: float
    full_load_efficiency: float
    load_ratio: float
    load_factor: float
    delivered_w: float
    power_w: float
    efficiency: float
    unmet_w: float


def capacity_w(rating: SplitRating, outdoor_c: float) -> float:
    """Return the most that a unit gives at an outdoor temperature [W]; never below 0 (C7)."""
    return max(0.0, rating.capacity_w * (1 + rating.capacity_slope_1_k * (outdoor_c - rating.rated_outdoor_c)))


def split_output(rating: SplitRating, *, outdoor_c: float, load_w: float) -> SplitOutput:
    """Return what a unit gives and draws under a load; right within 15 K of its rating.

    Raises
    ------
    OutOfRange
        If its straight line leaves no capacity or efficiency so far from the rating.

    References
    ----------
    EN 14511 rating points, EN 14825 (C_D); docs/methods C7.
    """
    most = capacity_w(rating, outdoor_c)
    away = outdoor_c - rating.rated_outdoor_c
    full = rating.efficiency * (1 + rating.efficiency_slope_1_k * away)
    if not (most > 0 and full > 0):
        raise OutOfRange(
            "outdoor temperature", outdoor_c, rating.rated_outdoor_c - 25, rating.rated_outdoor_c + 25, "°C"
        )
    ratio = min(1.0, max(0.0, load_w) / most)
    factor = 1 - rating.degradation * (1 - ratio)
    delivered = ratio * most
    power = delivered / (full * factor)
    return SplitOutput(
        capacity_w=most,
        full_load_efficiency=full,
        load_ratio=ratio,
        load_factor=factor,
        delivered_w=delivered,
        power_w=power,
        efficiency=full * factor,
        unmet_w=max(0.0, load_w - delivered),
    )
