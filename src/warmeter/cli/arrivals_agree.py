"""``warmeter arrivals-agree``: the way to be warm on arrival, chosen on four weeks of made-up households and held against the truth of the next four."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context

import numpy as np

from warmeter.core.arrays import Flags
from warmeter.core.presence.absences import absences_of, nearest_m
from warmeter.core.presence.household_presence import HouseholdPresence, household_presence, minutes_of
from warmeter.core.presence.presence_log import PresenceLog, distance_of
from warmeter.core.presence.share_interval import share_interval
from warmeter.core.presence.ways import looking_back
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE
from warmeter.core.units import MS_PER_MIN
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel
from warmeter.core.warmup.warm_arrival import (
    ArrivalRoom,
    WarmArrival,
    arrival_way,
    early_by_clock,
    early_within,
    warm_arrival,
)
from warmeter.simulators.household import household
from warmeter.simulators.household_distance import with_distances

# A usual room with a panel, in even weather: the arrivals are judged, not the room.
ROOM = RoomRc(air_out_w_k=25.0, air_fabric_w_k=180.0, fabric_out_w_k=20.0, air_j_k=5e5, fabric_j_k=5e6)
FULL_HEAT_W, OUTDOOR_C, WARM_C, AWAY_C, GAIN_W = 2200.0, 4.0, 20.0, 15.0, 80.0
ASSURANCE, LEAST_MIN, WEEKS = 0.8, 45, 8
CLOCK = LocalClock("UTC")


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedArrivals:
    """What was chosen on the first weeks, what it promised, what it held in the next, and that of starting on arrival."""

    seed: int
    key: str
    distance_m: float | None
    promised: float
    held: float
    held_on_arrival: float
    learnt_on: int
    arrivals: int

    @property
    def is_kept(self) -> bool:
        """Whether no fewer were warm than the range that was told allows."""
        return self.held >= share_interval(self.promised, self.learnt_on)[0]


def run(options: argparse.Namespace) -> int:
    """Judge so many households; 1 if fewer than four of five keep what was told of them."""
    seeds = range(options.first, options.first + options.seeds)
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        found = [each for each in pool.map(judged_arrivals, seeds) if each is not None]
    for each in found:
        way = each.key if each.distance_m is None else f"from {each.distance_m:.0f} m"
        print(
            f"household {each.seed}: {way}, {100 * each.promised:.0f} % of {each.learnt_on} arrivals; later "
            f"{100 * each.held:.0f} % of {each.arrivals}{'' if each.is_kept else '  NOT KEPT'}, on arrival alone "
            f"{100 * each.held_on_arrival:.0f} %"
        )
    if not found:
        print("no household came home often enough for a proposal")
        return 1
    kept, enough = sum(e.is_kept for e in found), sum(e.held >= ASSURANCE for e in found)
    means = [
        100 * float(np.mean([getattr(e, name) for e in found])) for name in ("promised", "held", "held_on_arrival")
    ]
    print(
        f"{len(found)} of {options.seeds} households have a proposal: told {means[0]:.0f} %, held {means[1]:.0f} % of "
        f"arrivals warm (asked {100 * ASSURANCE:.0f}; starting on arrival {means[2]:.0f}); as told or better in {kept}, "
        f"as asked in {enough}"
    )
    return 0 if kept >= 0.8 * len(found) else 1


def judged_arrivals(seed: int) -> JudgedArrivals | None:
    """Return how the way chosen on four weeks did in the next four; None where nothing was early enough, or nobody came."""
    made = with_distances(household(seed, WEEKS), seed)
    log = PresenceLog(
        tracks={key: Track(*reports) for key, reports in made.heard.items()},
        start_ms=made.start_ms,
        end_ms=made.start_ms + made.minutes * MS_PER_MIN,
    )
    half = made.minutes // 2
    first = replace(log, end_ms=log.start_ms + half * MS_PER_MIN)
    minutes = minutes_of(log.start_ms, log.end_ms)
    learnt = household_presence(made.home, first)
    state = looking_back(learnt, minutes[:half], made.home.presence_practice.sure)
    nearest = nearest_m([d for p in made.home.devices if (d := distance_of(log, p.id)) is not None], minutes)
    absences = absences_of(state, LEAST_MIN)
    if not absences:
        return None
    found = warm_arrival(
        _room(minutes[:half].size, log.start_ms),
        absences,
        nearest[:half],
        _on_the_way(learnt, half, log.start_ms),
        minutes[:half],
        CLOCK,
        ASSURANCE,
    )
    chosen = found.best
    # What is held in the next weeks is told by the truth, and word of the way home as it came.
    truth = np.where(made.is_home()[half:] > 0, TRUE, FALSE).astype(np.int8)
    later = absences_of(truth, LEAST_MIN)
    if chosen is None or not later:
        return None
    room = _room(made.minutes - half, log.start_ms + half * MS_PER_MIN)
    whole = _on_the_way(household_presence(made.home, log), made.minutes, log.start_ms)[half:]
    early = {
        "kept": np.ones(made.minutes - half, dtype=bool),
        "arrival": np.zeros(made.minutes - half, dtype=bool),
        "on_the_way": whole,
        "clock": _by_clock(found, minutes[half:]),
        "distance": early_within(later, nearest[half:], chosen.distance_m or 0.0),
    }
    held = arrival_way(room, later, chosen.key, early[chosen.key])
    on_arrival = arrival_way(room, later, "arrival", early["arrival"])
    return JudgedArrivals(
        seed=seed,
        key=chosen.key,
        distance_m=chosen.distance_m,
        promised=chosen.warm_share,
        held=held.warm_share,
        held_on_arrival=on_arrival.warm_share,
        learnt_on=len(absences),
        arrivals=len(later),
    )


def _by_clock(found: WarmArrival, minutes_ms: np.ndarray) -> Flags:
    if not found.usual_min or found.lead.cautious is None:
        return np.zeros(minutes_ms.size, dtype=bool)
    return early_by_clock(found.usual_min, found.lead.cautious, minutes_ms, CLOCK)


def _on_the_way(household_now: HouseholdPresence, minutes: int, start_ms: int) -> Flags:
    at = minutes_of(start_ms, start_ms + minutes * MS_PER_MIN)
    found = np.zeros(minutes, dtype=bool)
    for word in household_now.home.on_the_way.values():
        found |= word.at(at) == TRUE
    return found


def _room(minutes: int, start_ms: int) -> ArrivalRoom:
    model = RoomModel(
        step=compile_rooms([ROOM], FULL_HEAT_W, 60.0),
        gain_w=np.array([GAIN_W]),
        sun_m2=np.zeros(1),
        control=OnOff(full_heat_w=FULL_HEAT_W, band_k=0.4, min_on_steps=1, min_off_steps=1),
    )
    stretch = HeatingStretch(
        start_ms=start_ms,
        outdoor_c=np.full(minutes + 1, OUTDOOR_C),
        offsets_k=np.zeros(1),
        certain=minutes,
        clear_sky_w_m2=np.zeros(minutes),
        start_c=np.full((1, 3), WARM_C),
    )
    return ArrivalRoom(
        model=model, stretch=stretch, warm_c=np.full(minutes, WARM_C), target_c=WARM_C, away_c=AWAY_C, price=None
    )
