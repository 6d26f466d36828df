"""Where the next leak sensor saves most water (Q5)."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import combinations

from warmeter.core.errors import HomeError

LEAST_GAIN_L = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class LeakPoint:
    """A point of water: leaks a year, and the litres of one without and with a sensor [L]."""

    id: str
    leaks_year: float
    litres_without: float
    litres_with: float

    @property
    def worth_l(self) -> float:
        """Litres that a sensor there saves a year."""
        return self.leaks_year * max(0.0, self.litres_without - self.litres_with)


@dataclass(frozen=True, slots=True, kw_only=True)
class SensorPlace:
    """A sensor, or a place for one, and the points that it covers."""

    id: str
    covers: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenPlace:
    """A place in the order of choosing: what it adds and what all so far save [L a year]."""

    id: str
    gain_l: float
    total_l: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BestPair:
    """The two places that save most together, and what each of them adds to the other [L a year]."""

    ids: tuple[str, str]
    saved_l: float
    gains_l: tuple[float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class NextSensors:
    """What each offered place saves alone, the order of choosing, and the best two where choosing one by one misses them."""

    alone_l: dict[str, float]
    greedy: tuple[ChosenPlace, ...]
    best_pair: BestPair | None
    greedy_pair_short_l: float | None


def next_sensors(
    points: Sequence[LeakPoint], places: Sequence[SensorPlace], have: Sequence[str], most: int
) -> NextSensors:
    """Return which of some places for leak sensors save most [L a year], beside those that are there already.

    Raises
    ------
    HomeError
        If a place covers a point that is not there, or what is there already is no place.

    Notes
    -----
    docs/methods Q5: a point counts once; greedy is never below 1 − 1/e of the best set of its size.
    """
    worth = {point.id: point.worth_l for point in points}
    covers = {place.id: frozenset(place.covers) for place in places}
    strange = next((key for place in places for key in place.covers if key not in worth), None)
    strange = strange or next((key for key in have if key not in covers), None)
    if strange is not None:
        raise HomeError(f"{strange!r} is unknown among the points and places")
    known = frozenset().union(*(covers[key] for key in have))

    def saved(ids: Sequence[str]) -> float:
        reached = frozenset().union(*(covers[key] for key in ids)) - known
        return sum(value for key, value in worth.items() if key in reached)

    offered = [place.id for place in places if place.id not in set(have)]
    chosen: list[ChosenPlace] = []
    while len(chosen) < most:
        taken = [each.id for each in chosen]
        total = saved(taken)
        gains = [(saved([*taken, key]) - total, key) for key in offered if key not in taken]
        gain, key = max(gains, key=lambda pair: pair[0], default=(0.0, ""))
        if gain <= LEAST_GAIN_L:
            break
        chosen.append(ChosenPlace(id=key, gain_l=gain, total_l=total + gain))
    best, short = _best_pair(offered, saved), None
    if best is not None:
        short = best.saved_l - saved([each.id for each in chosen[:2]])
    return NextSensors(
        alone_l={key: saved([key]) for key in offered}, greedy=tuple(chosen), best_pair=best, greedy_pair_short_l=short
    )


def _best_pair(offered: Sequence[str], saved: Callable[[Sequence[str]], float]) -> BestPair | None:
    """Return the first of the pairs that save most, None with fewer than two places."""
    best: BestPair | None = None
    for first, second in combinations(offered, 2):
        both = saved([first, second])
        if best is None or both > best.saved_l + LEAST_GAIN_L:
            best = BestPair(ids=(first, second), saved_l=both, gains_l=(both - saved([second]), both - saved([first])))
    return best
