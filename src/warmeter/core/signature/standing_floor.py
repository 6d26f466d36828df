"""What of a meter's night floor stands all year: electric heating, which follows the cold, does not."""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.saving.degree_days import degree_day_fit
from warmeter.core.signature.night_floor import NightFloor

HEATING_LIMIT_C = 15.5  # outdoors; above it homes need no heat
FEWEST_NIGHTS, FEWEST_MILD = 7, 5
LEAST_SURE = 0.5  # a range wider than this share of the floor to either side tells nothing of a year
NO_OUTDOORS = (
    "This home heats with electricity, so what these nights drew is not what a year's nights draw. Import the "
    "temperature outdoors of the same days."
)
NIGHTS_ALIKE = (
    "This home heats with electricity, and these nights do not tell how much of what they drew is heat. Log nights that "
    "differ more in cold."
)
FOLLOWS_COLD = (
    "What the nights draw rises with the cold, as heating does; what is left on a mild night the log does not tell yet. "
    "Log mild nights too."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingFloor:
    """The floor of a year.

    Parameters
    ----------
    floor_w : float or None
        What is drawn in every night of a year [W]; None where heating hides it, or no night counts.
    down_w, up_w : float
        How far heating may make it less or more [W].
    heating_w : float
        What of the logged floor followed the cold and is left out [W].
    why : str
        Why it is not known, "" where it is.
    """

    floor_w: float | None
    down_w: float = 0.0
    up_w: float = 0.0
    heating_w: float = 0.0
    why: str = ""


def standing_floor(floor: NightFloor, outdoor_c: Sequence[float | None], *, electric_heating: bool) -> StandingFloor:
    """Return what of a night floor stands all year.

    Parameters
    ----------
    floor : NightFloor
        Of all nights.
    outdoor_c : sequence of float or None
        Mean temperature outdoors of each of its nights, None where not known [°C].
    electric_heating : bool
        Whether the home is known to be heated with electricity.

    Notes
    -----
    docs/methods Q9 and K3: the nights' floors over the degrees below 15.5 °C. Where they surely rise with the cold,
    only nights without any tell of a year. Where they do not, and the home heats with electricity, the upper end of the
    slope times the nights' mean cold is how much of the floor may still be heat.
    """
    if floor.floor_w is None:
        return StandingFloor(floor_w=None, why="No night of this log is known well enough.")
    pairs = [
        (night.floor_w, outdoor)
        for night, outdoor in zip(floor.nights, outdoor_c, strict=True)
        if night.floor_w is not None and outdoor is not None
    ]
    floors, below, fit, cold = np.zeros(0), np.zeros(0), None, 0.0
    if len(pairs) >= FEWEST_NIGHTS:
        floors, outdoors = np.array(pairs).T
        below = np.maximum(0.0, HEATING_LIMIT_C - outdoors)
        cold = float(below.mean())
        with contextlib.suppress(NotKnowable):  # all nights as cold as each other
            fit = degree_day_fit(np.ones(len(pairs)), below, floors)
    if fit is None and electric_heating:
        return StandingFloor(floor_w=None, why=NIGHTS_ALIKE if len(pairs) >= FEWEST_NIGHTS else NO_OUTDOORS)
    if fit is None:
        return StandingFloor(floor_w=floor.floor_w)
    if fit.follows_weather:
        # A line drawn on to where heating ends would be sure and wrong: thermostats and heat pumps do not follow it.
        mild = floors[below <= 0]
        if mild.size < FEWEST_MILD:
            return StandingFloor(floor_w=None, why=FOLLOWS_COLD)
        low, base, high = np.quantile(mild, (0.1, 0.5, 0.9)).tolist()
        return StandingFloor(
            floor_w=base, down_w=base - low, up_w=high - base, heating_w=max(0.0, floor.floor_w - base)
        )
    if not electric_heating:
        return StandingFloor(floor_w=floor.floor_w)
    hidden = max(0.0, (fit.slope_per_degree_day + fit.slope_half) * cold)
    if hidden > LEAST_SURE * floor.floor_w:
        return StandingFloor(floor_w=None, why=NIGHTS_ALIKE)
    return StandingFloor(floor_w=floor.floor_w, down_w=hidden)
