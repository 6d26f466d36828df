"""Whether it is warm when somebody comes home: ways to know when to start, run through a room on its own absences."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.presence.absences import Absence, evening_minutes, usual_arrival_min, within_distance
from warmeter.core.presence.share_interval import share_interval
from warmeter.core.thermal.proportional import Proportional, proportional_run
from warmeter.core.thermal.room_fit import Estimate, range_of
from warmeter.core.timegrid import LocalClock, weekday_of_epoch_days
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, W_MIN_PER_KWH
from warmeter.core.warmup.lead import Lead, lead_from_floor
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel, boundary_of

# An arrival is cold where it is short by more than this for longer than that [K, min].
SHORT_K, SHORT_MIN = 1.0, 10
BAND_K = 0.5
# Fewer arrivals hold no proposal: in made-up households they promised what did not come.
FEWEST_TO_PROPOSE = 6
DISTANCES_M = (300.0, 500.0, 800.0, 1200.0, 2000.0, 3000.0, 5000.0, 8000.0, 12_000.0, 20_000.0, 35_000.0, 60_000.0)
WEEK_MIN = 7 * MIN_PER_DAY


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalRoom:
    """A room with the weeks that it is run through.

    Parameters
    ----------
    model, stretch
        The room in draws, and its weather from the first minute on.
    warm_c : (minute,) float array
        What is asked while somebody is at home [°C].
    target_c : float
        What is asked then by day [°C].
    away_c : float
        What is asked while nobody is [°C]; where ``warm_c`` lies lower, that.
    price : (minute,) float array or None
        What a kWh of heat costs by minute; None where it has no price.
    """

    model: RoomModel
    stretch: HeatingStretch
    warm_c: Floats
    target_c: float
    away_c: float
    price: Floats | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ArrivalWay:
    """A way to know when to start, and what it came to.

    Parameters
    ----------
    key : str
        ``kept``, ``clock``, ``distance``, ``on_the_way`` or ``arrival``.
    distance_m : float or None
        From which on it starts.
    warm_share : float
        Share of arrivals, over all draws of the room, that were not cold.
    warm_range : (float, float)
        What so few arrivals leave of that share, 95 %.
    short_k : float
        What was missing at the arrival, mean over arrivals of the best estimate [K].
    early_h_week : float
        Hours a week in which it was kept warm with nobody there.
    heat_kwh_week : Estimate
        Heat a week.
    money_week : Estimate or None
        Its price.
    """

    key: str
    distance_m: float | None
    warm_share: float
    warm_range: tuple[float, float]
    short_k: float
    early_h_week: float
    heat_kwh_week: Estimate
    money_week: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WarmArrival:
    """Ways side by side, every distance tried, the nearest that is early enough, and of all ways that with least heat.

    ``proposed`` and ``best`` are None where none is early enough, or arrivals are few.

    ``usual_min`` is the usual hour by weekday [min of the day], empty with too few arrivals; ``lead`` that after an
    absence of the middle length; ``weeks`` the length of what was run.
    """

    ways: tuple[ArrivalWay, ...]
    distances: tuple[ArrivalWay, ...]
    proposed: ArrivalWay | None
    best: ArrivalWay | None
    usual_min: Mapping[int, int]
    lead: Lead
    arrivals: int
    weeks: float

    def more_kwh_week(self, way: ArrivalWay) -> float:
        """Return the heat of a way beyond that of starting on arrival [kWh a week]."""
        return way.heat_kwh_week.value - self.ways[-1].heat_kwh_week.value

    def more_money_week(self, way: ArrivalWay) -> float | None:
        """Return what that costs a week; None where it has no price."""
        least = self.ways[-1].money_week
        return None if way.money_week is None or least is None else way.money_week.value - least.value

    def clock_start_min(self, weekday: int) -> int | None:
        """Return when a hold to the usual hour starts on a weekday [min of the day]; None where there is none."""
        if not self.usual_min or self.lead.cautious is None:
            return None
        return max(0, round(self.usual_min[weekday] - self.lead.cautious)) % MIN_PER_DAY


def warm_arrival(
    room: ArrivalRoom,
    absences: Sequence[Absence],
    nearest: Floats,
    on_the_way: Flags,
    minutes_ms: Ints,
    clock: LocalClock,
    assurance: float,
) -> WarmArrival:
    """Return the ways of a room over its absences.

    Parameters
    ----------
    absences : sequence of Absence
        At least one.
    nearest : (minute,) float array
        Distance of the nearest telephone [m], NaN where not known.
    on_the_way : (minute,) bool array
        Where word stands of somebody being on the way.
    assurance : float
        Share of arrivals that shall be warm, in (0.5, 1).

    Notes
    -----
    The heater gives heat in proportion, so that energies have no noise of switching. A way is early enough where the
    share of arrivals that are warm, over the room's draws, reaches the assurance: both what is not known of the room
    and what differs from day to day count. By the clock it starts the cautious lead before the usual hour.
    """
    lead = lead_after(room, absences)
    usual = usual_arrival_min(absences, minutes_ms, clock, assurance)
    nowhere = np.zeros(minutes_ms.size, dtype=bool)
    top = float(np.nanmax(nearest)) if np.isfinite(nearest).any() else 0.0
    distances = tuple(
        arrival_way(room, absences, "distance", early_within(absences, nearest, metres), metres)
        for metres in DISTANCES_M
        if metres < top
    )
    is_enough = len(absences) >= FEWEST_TO_PROPOSE
    proposed = next((way for way in distances if is_enough and way.warm_share >= assurance), None)
    ways = [arrival_way(room, absences, "kept", ~nowhere)]
    if usual and lead.cautious is not None:
        ways.append(arrival_way(room, absences, "clock", early_by_clock(usual, lead.cautious, minutes_ms, clock)))
    ways += [] if proposed is None else [proposed]
    ways += [arrival_way(room, absences, "on_the_way", on_the_way)] if on_the_way.any() else []
    ways.append(arrival_way(room, absences, "arrival", nowhere))
    return WarmArrival(
        ways=tuple(ways),
        distances=distances,
        proposed=proposed,
        best=_best(ways, len(absences), assurance),
        usual_min=usual,
        lead=lead,
        arrivals=len(absences),
        weeks=minutes_ms.size / WEEK_MIN,
    )


def _best(ways: Sequence[ArrivalWay], arrivals: int, assurance: float) -> ArrivalWay | None:
    """Return the way that takes the least heat of those that are early enough."""
    enough = [way for way in ways if way.warm_share >= assurance and arrivals >= FEWEST_TO_PROPOSE]
    return min(enough, key=lambda way: way.heat_kwh_week.value, default=None)


def lead_after(room: ArrivalRoom, absences: Sequence[Absence]) -> Lead:
    """Return the lead time after an absence of the middle length, at the mean outdoor temperature of the weeks."""
    hours = float(np.median([a.came - a.left for a in absences])) / MIN_PER_H
    return lead_from_floor(
        room.model.step,
        room.model.control,
        floor_c=room.away_c,
        target_c=room.target_c,
        outdoor_c=float(room.stretch.outdoor_c.mean()),
        gain_w=room.model.gain_w,
        hours_of_fall=hours,
    )


def early_by_clock(usual_min: Mapping[int, int], lead_min: float, minutes_ms: Ints, clock: LocalClock) -> Flags:
    """Return the minutes from the lead before each day's usual hour on, until four in the morning."""
    day, of_day = evening_minutes(minutes_ms, clock)
    hours = np.array([usual_min[k] for k in range(7)])[weekday_of_epoch_days(day)]
    return np.asarray(of_day >= hours - lead_min, dtype=np.bool_)


def early_within(absences: Sequence[Absence], nearest: Floats, metres: float) -> Flags:
    """Return the minutes of absences in which somebody has come back within a distance."""
    early = np.zeros(nearest.size, dtype=bool)
    for absence in absences:
        early[absence.left : absence.came] = within_distance(absence, nearest, metres)
    return early


def arrival_way(
    room: ArrivalRoom, absences: Sequence[Absence], key: str, early: Flags, distance_m: float | None = None
) -> ArrivalWay:
    """Run a room that is set back while nobody is there and it is not early, and return what that came to."""
    is_out = np.zeros(early.size, dtype=bool)
    for absence in absences:
        is_out[absence.left : absence.came] = True
    asked = np.where(is_out & ~early, np.minimum(room.warm_c, room.away_c), room.warm_c)
    heater = Proportional(full_heat_w=room.model.control.full_heat_w, band_k=BAND_K)
    run = proportional_run(room.model.step, boundary_of(room.model, room.stretch, asked), heater)
    came = np.array([a.came for a in absences])
    later = np.minimum(came + SHORT_MIN, early.size - 1)
    is_warm = run.air_c[:, later] >= room.warm_c[later] - SHORT_K
    share, weeks = float(is_warm.mean()), early.size / WEEK_MIN
    kwh = run.heat_w / W_MIN_PER_KWH
    return ArrivalWay(
        key=key,
        distance_m=distance_m,
        warm_share=share,
        warm_range=share_interval(share, len(absences)),
        short_k=float(np.maximum(room.warm_c[came] - run.air_c[0, came], 0.0).mean()),
        early_h_week=float((is_out & early).sum()) / MIN_PER_H / weeks,
        heat_kwh_week=range_of(kwh.sum(axis=1) / weeks),
        money_week=None if room.price is None else range_of(kwh @ room.price / weeks),
    )
