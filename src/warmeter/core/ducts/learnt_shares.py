"""Each room's share of the air, learnt from how fast it begins to warm when the burner starts."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.errors import NotKnowable
from warmeter.core.thermal.room_fit import Estimate

REST_MIN, RUN_MIN = 8, 8  # before and after a start; the ducts take two minutes to fill
FILL_MIN = 2
FEWEST_STARTS, COARSEST_MIN = 10, 2.0
STORE_DOUBT = 0.12  # of a room's store a cubic metre: furniture differs
TWO_SIDED = 1.96


@dataclass(frozen=True, slots=True, kw_only=True)
class LearntShares:
    """Rooms' shares of the air (ratios, together 1) with their ranges, and how many starts told them."""

    shares: tuple[Estimate, ...]
    starts: int


def learnt_shares(room_c: Floats, heating: Floats, volume_m3: Floats, step_min: float) -> LearntShares:
    """Return rooms' shares of the air.

    Parameters
    ----------
    room_c : (room, step) float array
        Their temperatures; NaN where not heard [°C].
    heating : (step,) float array
        1 while the burner works, 0 while not, NaN where not known.
    volume_m3 : (room,) float array
        Their volumes, above 0: the store that answers at once goes by them [m3].
    step_min : float
        Length of a step, at most 2 [min].

    Raises
    ------
    NotKnowable
        If there are too few starts after a rest that are heard in all rooms, or the log is too coarse for them.

    References
    ----------
    docs/methods, shares of air: rate of warming after a start less that before it, times the room's volume.
    """
    if step_min > COARSEST_MIN:
        raise NotKnowable(
            f"Readings {step_min:g} min apart do not tell how a room begins to warm.",
            f"Import every ducted room's temperature {COARSEST_MIN:g} min apart or finer.",
        )
    rest, run, fill = (max(1, round(minutes / step_min)) for minutes in (REST_MIN, RUN_MIN, FILL_MIN))
    changes = []
    for start in _starts(heating, rest, run + fill).tolist():
        before, after = room_c[:, start - rest : start + 1], room_c[:, start + fill : start + fill + run + 1]
        if np.isnan(before).any() or np.isnan(after).any():
            continue
        changes.append(_slopes(after, step_min) - _slopes(before, step_min))
    if len(changes) < FEWEST_STARTS:
        raise NotKnowable(
            f"{len(changes)} starts of the burner after a rest were heard in all rooms; {FEWEST_STARTS} are needed.",
            "Import every ducted room's temperature and when the burner works.",
        )
    rates = np.array(changes)
    own = _shares(rates.mean(axis=0), volume_m3)
    # Starts left out one by one, beside what furniture makes of the stores.
    left_out = np.array([_shares(np.delete(rates, k, axis=0).mean(axis=0), volume_m3) for k in range(len(rates))])
    spread = ((len(rates) - 1) / len(rates) * np.square(left_out - left_out.mean(axis=0)).sum(axis=0)) ** 0.5
    half = TWO_SIDED * np.hypot(spread, STORE_DOUBT * own * (1 - own))
    return LearntShares(
        shares=tuple(
            Estimate(value=float(v), low=max(0.0, float(v - h)), high=min(1.0, float(v + h)))
            for v, h in zip(own, half, strict=True)
        ),
        starts=len(rates),
    )


def _starts(heating: Floats, rest: int, run: int) -> Ints:
    """Return the first steps of runs after a rest, each long enough."""
    on: Flags = heating == 1
    off: Flags = heating == 0
    first = np.flatnonzero(on[1:] & off[:-1]) + 1
    whole = [
        k >= rest and k + run < on.size and bool(off[k - rest : k].all()) and bool(on[k : k + run].all())
        for k in first.tolist()
    ]
    return np.asarray(first[np.array(whole, dtype=bool)], dtype=np.int64)


def _slopes(part: Floats, step_min: float) -> Floats:
    """Return each room's slope over a stretch by least squares [K/min]."""
    at = (np.arange(part.shape[1]) - (part.shape[1] - 1) / 2) * step_min
    return np.asarray(part @ at / float(at @ at), dtype=np.float64)


def _shares(rates: Floats, volume_m3: Floats) -> Floats:
    pulls = np.maximum(rates, 0.0) * volume_m3
    return pulls / max(float(pulls.sum()), 1e-12)
