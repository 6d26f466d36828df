"""Filling a tub or pool to a volume, with a hard stop by litres and by time."""

from dataclasses import dataclass

from warmeter.core.errors import OutOfRange
from warmeter.core.units import S_PER_MIN

# A meter misses a little, and a flow changes with who else draws: beyond so much more, something is wrong.
STOP_OVER = 1.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Filling:
    """How long a filling takes [s], and where it is stopped whatever else says [L, s]."""

    takes_s: float
    stop_l: float
    stop_s: float


def filling(volume_l: float, flow_l_min: float) -> Filling:
    """Return the time of a filling and its hard stops, a tenth over.

    Raises
    ------
    OutOfRange
        If volume or flow are not above 0.
    """
    for name, value, unit in (("volume", volume_l, "L"), ("flow", flow_l_min, "L/min")):
        if not value > 0:
            raise OutOfRange(name, value, 0.0, 1e6, unit)
    takes = S_PER_MIN * volume_l / flow_l_min
    return Filling(takes_s=takes, stop_l=STOP_OVER * volume_l, stop_s=STOP_OVER * takes)
