"""``warmeter presence-agree``: presence of made-up households against their truth, beside each witness by itself."""

import argparse
from collections.abc import Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np

from warmeter.core.arrays import Bytes, Ints, true_runs
from warmeter.core.home.presets import USE
from warmeter.core.presence.household_presence import HouseholdPresence, household_presence, minutes_of
from warmeter.core.presence.idle_proposal import WAITS_S, can_be_judged, from_start, room_idle_time
from warmeter.core.presence.idle_time import IdlePrices, idle_time
from warmeter.core.presence.presence_log import PresenceLog, room_sensors
from warmeter.core.presence.presence_score import PresenceScore, presence_score
from warmeter.core.presence.room_presence import RoomPresence, rooms_presence
from warmeter.core.presence.room_use import room_use
from warmeter.core.presence.ways import by_kind
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.track import Track
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.units import MS_PER_MIN, MS_PER_S
from warmeter.simulators.household import Household, household

USUAL_IDLE_S, PRESENCE_IDLE_S = 1800, 120
LAMP = IdlePrices(wrong_off=0.05, power_w=90.0, per_kwh=0.27)
WITHIN = 1.05


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedHousehold:
    """A household: the home and its rooms by all witnesses, by each one alone, and what its proposed waits cost."""

    seed: int
    people: int
    home: PresenceScore
    home_alone: Mapping[str, PresenceScore]
    rooms: Mapping[str, PresenceScore]
    rooms_alone: Mapping[str, Mapping[str, PresenceScore]]
    not_known: float
    not_known_in: float
    waits: tuple[tuple[str, float, float], ...]

    @property
    def is_home_righter(self) -> bool:
        """Whether the home by all witnesses is right in more minutes than by any one."""
        return self.home.right > max(s.right for s in self.home_alone.values())

    @property
    def is_home_better(self) -> bool:
        """Whether the home by all witnesses does less harm than by any one."""
        return self.home.harm_h < min(s.harm_h for s in self.home_alone.values())

    @property
    def are_rooms_righter(self) -> bool:
        """Whether the rooms by all witnesses are right in more minutes than each by the one that serves it best."""
        best = [max(s.right for s in alone.values()) for alone in self.rooms_alone.values()]
        return sum(s.right for s in self.rooms.values()) > sum(best)


def run(options: argparse.Namespace) -> int:
    """Judge so many households; 1 if all witnesses together are not better in nine of ten."""
    seeds = range(options.first, options.first + options.seeds)
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        found = list(pool.map(judged, seeds))
    for each in found:
        print(f"household {each.seed}, {each.people} people")
        print(f"  home, all: {_words(each.home)}{'' if each.is_home_better else '  NOT BETTER'}")
        for name, score in each.home_alone.items():
            print(f"  home, {name}: {_words(score)}")
        print(
            f"  not known {100 * each.not_known:.1f} % of the time, somebody in during {100 * each.not_known_in:.0f} % of that"
        )
        for room, score in each.rooms.items():
            beside = "; ".join(f"{name} {100 * s.right:.1f} %" for name, s in each.rooms_alone[room].items())
            print(f"  {room}: {_words(score)} ({beside})")
    homes, rooms = sum(e.is_home_better for e in found), sum(e.are_rooms_righter for e in found)
    for line in _summary(found):
        print(line)
    righter = sum(e.is_home_righter for e in found)
    print(
        f"better than each witness alone: the home in {homes} (right in more minutes: {righter}), the rooms in {rooms} of "
        f"{len(found)} (asked: 18 of 20)"
    )
    return 0 if min(homes, rooms) >= 0.9 * len(found) else 1


def _summary(found: list[JudgedHousehold]) -> Iterator[str]:
    """Yield means over all households, and how the proposed waits did."""
    yield f"home, all: {_mean_words([e.home for e in found])}"
    for name in dict.fromkeys(key for e in found for key in e.home_alone):
        own = [e.home_alone[name] for e in found if name in e.home_alone]
        yield f"home, {name} ({len(own)} homes): {_mean_words(own)}"
    yield f"rooms, all: {_mean_words([s for e in found for s in e.rooms.values()])}"
    for name in dict.fromkeys(key for e in found for alone in e.rooms_alone.values() for key in alone):
        rows = [(e.rooms[r], alone[name]) for e in found for r, alone in e.rooms_alone.items() if name in alone]
        yield f"rooms, {name} ({len(rows)} rooms): {_mean_words([a for _, a in rows])}; all witnesses there: {_mean_words([m for m, _ in rows])}"
    given = np.array([ratio for e in found for _, ratio, _ in e.waits])
    judged_by_log = np.array([ratio for e in found for _, _, ratio in e.waits])
    for name, ratios in (("truth given", given), ("truth from the log", judged_by_log)):
        within = (ratios <= WITHIN).sum()
        yield f"wait, {name}: within 5 % of the best in {within} of {ratios.size}, middle {np.median(ratios):.3f}, worst {ratios.max():.2f} times"


def _mean_words(scores: list[PresenceScore]) -> str:
    names = ("right", "wrong_offs", "cold_arrivals", "wasted_h", "dark_h")
    return _words(PresenceScore(**{name: float(np.mean([getattr(s, name) for s in scores])) for name in names}))


def judged(seed: int) -> JudgedHousehold:
    """Return a household's presence against its truth."""
    made = household(seed)
    log = PresenceLog(
        tracks={key: Track(*reports) for key, reports in made.heard.items()},
        start_ms=made.start_ms,
        end_ms=made.start_ms + made.minutes * MS_PER_MIN,
    )
    found = household_presence(made.home, log)
    rooms = rooms_presence(made.home, log, found, LocalClock("UTC"))
    minutes = minutes_of(log.start_ms, log.end_ms)
    truth = _truth(made.is_home())
    state = found.home.state.at(minutes)
    unknown = state == UNKNOWN
    alone = {room.room_id: _room_alone(made, log, found, room.room_id, minutes) for room in rooms}
    return JudgedHousehold(
        seed=seed,
        people=len(made.home.people),
        home=presence_score(state, truth),
        home_alone={name: presence_score(said, truth) for name, said in by_kind(found, minutes).items()},
        rooms={room.room_id: presence_score(room.state, _truth(made.is_in(room.room_id))) for room in rooms},
        rooms_alone={
            room_id: {name: presence_score(said, _truth(made.is_in(room_id))) for name, said in said_by.items()}
            for room_id, said_by in alone.items()
        },
        not_known=float(unknown.mean()),
        not_known_in=float((truth[unknown] == TRUE).mean()) if unknown.any() else 0.0,
        waits=tuple(_waits(made, log, rooms)),
    )


def _room_alone(
    made: Household, log: PresenceLog, found: HouseholdPresence, room_id: str, minutes: Ints
) -> dict[str, Bytes]:
    """Return a room by each kind of sensor by itself, with the usual wait of its kind."""
    idle_s = USE[made.home.room(room_id).use].empty_after_s or USUAL_IDLE_S
    result = {}
    for name, quantity, wait_s in (
        ("motion", "is_moving", idle_s),
        ("presence sensor", "is_in", PRESENCE_IDLE_S),
        ("mattress", "is_in_bed", PRESENCE_IDLE_S),
    ):
        sensors = room_sensors(made.home, log, room_id, (quantity,))
        if sensors:
            result[name] = room_use(sensors, wait_s * MS_PER_S, log.start_ms, log.end_ms).at(minutes)
    for person in found.persons:
        for each in person.witnesses:
            if each.witness.kind == "machine" and each.witness.room_id == room_id and each.reports is not None:
                said = each.reports.standing(minutes)
                result["machine"] = np.where(said == TRUE, TRUE, FALSE).astype(np.int8)
    return result


def _waits(made: Household, log: PresenceLog, rooms: tuple[RoomPresence, ...]) -> Iterator[tuple[str, float, float]]:
    """Yield of each room with motion: cost of the proposed wait over the best of every half minute, truth given or not."""
    for room in rooms:
        sensors = room_sensors(made.home, log, room.room_id, ("is_moving",))
        if not sensors or not can_be_judged(room):
            continue
        begin, past = true_runs(made.is_in(room.room_id) == 1)
        truth = begin * MS_PER_MIN, past * MS_PER_MIN
        own = [from_start(s, log.start_ms) for s in sensors]
        length = log.end_ms - log.start_ms
        every = {r.wait_s: r.cost_week for r in idle_time(own, truth, range(0, 3601, 30), LAMP, end_ms=length).rows}
        best = min(every.values())
        given = idle_time(own, truth, WAITS_S, LAMP, end_ms=length).best.wait_s
        proposed = room_idle_time(room, sensors, LAMP, start_ms=log.start_ms, end_ms=log.end_ms).best.wait_s
        yield room.room_id, every[given] / best, every[proposed] / best


def _words(score: PresenceScore) -> str:
    return (
        f"{100 * score.right:.2f} % right, a week {score.wrong_offs:.1f} wrong offs, {score.cold_arrivals:.1f} cold "
        f"arrivals, {score.wasted_h:.1f} h wasted, {score.dark_h:.1f} h dark"
    )


def _truth(flags: Bytes) -> Bytes:
    return np.where(flags == 1, TRUE, FALSE).astype(np.int8)
