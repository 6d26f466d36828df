"""How likely somebody is in a room, minute by minute, from its own sensors, those of the other rooms, and the home.

A room is empty, has somebody moving, or somebody still: whoever sits, reads or sleeps is a state of its own, entered and
left by moving. How often each sensor speaks in each state is learnt from the log, from usual figures on.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numba import njit

from warmeter.core.arrays import Bytes, Flags, Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import RoomUse
from warmeter.core.presence.presence_log import PresenceLog, room_sensors
from warmeter.core.presence.room_use import on_by_minute
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN

EMPTY, MOVING, STILL = range(3)
# Chance a minute of going from a state to another, and of a sensor speaking in each, before a log has taught more.
_STAY = np.array([[0.985, 0.0145, 0.0005], [0.08, 0.76, 0.16], [0.008, 0.06, 0.932]])
_WORK = np.array([[0.985, 0.0145, 0.0005], [0.1, 0.8, 0.1], [0.04, 0.12, 0.84]])
_PASS = np.array([[0.96, 0.0395, 0.0005], [0.5, 0.48, 0.02], [0.2, 0.3, 0.5]])
CHANGE: Mapping[RoomUse, Floats] = {
    "living": _STAY,
    "sleeping": _STAY,
    "office": _STAY,
    "workshop": _WORK,
    "kitchen": _WORK,
    "bath": _WORK,
    "store": _PASS,
    "hall": _PASS,
}
# Which states' figures a sign learns: a motion sensor and a machine only what they say of an empty room.
LEARNS: Mapping[str, tuple[int, ...]] = {
    "motion": (EMPTY,),
    "machine": (EMPTY,),
    "presence": (EMPTY, MOVING, STILL),
    "bed": (EMPTY, STILL),
    "home out": (),
}
USUAL_SPEAKS = {
    "motion": (0.02, 0.9, 0.12),
    "presence": (0.03, 0.95, 0.85),
    "bed": (0.01, 0.05, 0.9),
    "machine": (0.05, 0.4, 0.6),
    "home out": (0.3, 0.004, 0.004),
}
# Usual figures count as so many minutes.
PRIOR_MIN, ROUNDS = 600.0, 6
# Whoever enters or leaves a room is seen on the way so often.
SEEN_PASSING = 0.85
LEAST_RATE, MOST_RATE = 0.005, 0.6
SEEN_ELSEWHERE_ALONE = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomSigns:
    """What bears on a room in each minute.

    Parameters
    ----------
    names : tuple of str
        Keys of ``USUAL_SPEAKS``.
    speaks, is_known : (sign, minute) flags
        Whether each sign speaks, and whether it is heard at all.
    passing : (minute,) flags or None
        Motion where whoever enters or leaves the room passes; None where nothing sees that.
    elsewhere : (minute,) flags or None
        Motion in other rooms.
    hour : (minute,) int array
        Hour of the day by the home's clock, 0 to 23.
    people : int
        How many live there.
    use : str
        What the room is for.
    """

    names: tuple[str, ...]
    speaks: Flags
    is_known: Flags
    passing: Flags | None
    elsewhere: Flags | None
    hour: Ints
    people: int
    use: RoomUse


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomProbability:
    """How likely somebody is in, by minute, as known then; which signs it comes from, and how often each speaks.

    ``looking_back`` is the chance by everything heard before and after, for judging what was; ``is_passing_seen`` says
    whether motion is seen where people enter and leave; ``speaks`` is
    (sign, state) for empty, moving and still.
    """

    chance: Floats
    still: Floats
    looking_back: Floats
    is_passing_seen: bool
    names: tuple[str, ...]
    speaks: Floats

    def state(self, sure: float) -> Bytes:
        """Return ``TRUE`` in use, ``FALSE`` empty, ``UNKNOWN`` between, by minute."""
        return np.where(self.chance >= sure, TRUE, np.where(self.chance <= 1 - sure, FALSE, UNKNOWN)).astype(np.int8)


def room_probability(signs: RoomSigns) -> RoomProbability:
    """Return how likely somebody is in a room.

    Parameters
    ----------
    signs : RoomSigns
        One own sign at least.

    Notes
    -----
    A hidden chain of three states. How often each sign speaks is learnt by expectation and maximisation over the whole
    log; the answer in each minute goes by what was heard up to then. Motion where people pass bears on changes, motion
    in other rooms on the state, both against their usual rate at that hour, so that a quiet night says nothing.

    References
    ----------
    Rabiner 1989; the usual figures count as ten hours of log.
    """
    prior = np.array([USUAL_SPEAKS[name] for name in signs.names])
    speaks = prior.copy()
    flags, known = signs.speaks.astype(np.int8), signs.is_known.astype(np.int8)
    patterns = _patterns(flags, known)
    beside = _beside(signs)
    passed = _passed(signs)
    change = CHANGE[signs.use]
    for _ in range(ROUNDS):
        weight = _expected(_likelihood(patterns, speaks) * beside, change, passed)
        minutes = weight.sum(axis=0)
        for k, name in enumerate(signs.names):
            found = (weight[flags[k] == 1].sum(axis=0) + prior[k] * PRIOR_MIN) / (minutes + PRIOR_MIN)
            learns = list(LEARNS[name])
            speaks[k, learns] = found[learns]
        speaks = np.clip(speaks, 1e-3, 1 - 1e-3)
    likely = _likelihood(patterns, speaks) * beside
    states = _forward(likely, change, passed)
    return RoomProbability(
        chance=1 - states[:, EMPTY],
        still=states[:, STILL],
        looking_back=1 - _expected(likely, change, passed)[:, EMPTY],
        is_passing_seen=signs.passing is not None,
        names=signs.names,
        speaks=speaks,
    )


def _rate(flags: Flags, hour: Ints) -> Floats:
    """Return how often something speaks at each minute's hour."""
    by_hour = np.array([flags[hour == h].mean() if (hour == h).any() else 0.0 for h in range(24)])
    return np.asarray(np.clip(by_hour, LEAST_RATE, MOST_RATE)[hour])


def _beside(signs: RoomSigns) -> Floats:
    """Return how likely motion in other rooms is in each state, (minute, state): it tells only where one lives alone."""
    found = np.ones((signs.hour.size, 3))
    if signs.elsewhere is not None and signs.people == 1:
        found[signs.elsewhere, 1:] = SEEN_ELSEWHERE_ALONE
    return found


def _passed(signs: RoomSigns) -> Floats:
    """Return by how much a change between empty and used is likelier than none, by what was seen where people pass."""
    if signs.passing is None:
        return np.ones(signs.hour.size)
    # A minute counts with its neighbour before: doors and sensors are not of one second.
    near = signs.passing | np.append(False, signs.passing[:-1])
    rate = _rate(near, signs.hour)
    return np.asarray(np.where(near, SEEN_PASSING / rate, (1 - SEEN_PASSING) / (1 - rate)))


def room_signs(
    home: Home,
    log: PresenceLog,
    room_id: str,
    home_state: Bytes,
    machines: Sequence[Bytes],
    minutes_ms: Ints,
    hour: Ints,
) -> RoomSigns | None:
    """Return what bears on a room; None where nothing in the room itself was heard.

    Parameters
    ----------
    home_state : (minute,) int8 array
        The home in, out or not known.
    machines : sequence of (minute,) int8 array
        What machines in the room that need a hand say.
    hour : (minute,) int array
        Hour of the day by the home's clock.
    """
    own: list[tuple[str, Flags]] = []
    for name, quantities in (("motion", ("is_moving",)), ("presence", ("is_in",)), ("bed", ("is_in_bed",))):
        heard = [on_by_minute(s, minutes_ms, log.end_ms) for s in room_sensors(home, log, room_id, quantities)]
        own += [(name, np.any(heard, axis=0))] if heard else []
    own += [("machine", np.any([said == TRUE for said in machines], axis=0))] if machines else []
    if not own:
        return None
    seen = {
        room.id: [on_by_minute(s, minutes_ms, log.end_ms) for s in room_sensors(home, log, room.id, ("is_moving",))]
        for room in home.rooms
        if room.id != room_id
    }
    halls = [flag for room in home.rooms if room.id != room_id and room.use == "hall" for flag in seen[room.id]]
    others = [flag for flags in seen.values() for flag in flags]
    return RoomSigns(
        names=(*(name for name, _ in own), "home out"),
        speaks=np.array([*(flag for _, flag in own), home_state == FALSE]),
        is_known=np.array([*(np.ones(minutes_ms.size, dtype=bool) for _ in own), home_state == FALSE]),
        passing=np.any(halls, axis=0) if halls else None,
        elsewhere=np.any(others, axis=0) if others else None,
        hour=hour,
        people=max(1, len(home.people)),
        use=home.room(room_id).use,
    )


def _patterns(flags: Bytes, known: Bytes) -> Ints:
    """Return for each minute which signs speak, are silent, or are not heard, as one number in base 3."""
    digit = np.where(known == 1, flags, 2).astype(np.int64)
    return np.asarray((digit * 3 ** np.arange(flags.shape[0])[:, None]).sum(axis=0))


def _likelihood(patterns: Ints, speaks: Floats) -> Floats:
    """Return how likely each minute's signs are in each state, (minute, state)."""
    number = np.arange(3 ** speaks.shape[0])
    found = np.zeros((number.size, 3))
    for k in range(speaks.shape[0]):
        digit = number // 3**k % 3
        found += np.stack([np.log1p(-speaks[k]), np.log(speaks[k]), np.zeros(3)])[digit]
    return np.asarray(np.exp(found - found.max(axis=1, keepdims=True))[patterns])


@njit(cache=True, nogil=True)
def _weigh(change, passed, out):  # type: ignore[no-untyped-def]
    """Write the changes of a minute: those between empty and used weighed by what was seen where people pass."""
    for i in range(3):
        total = 0.0
        for j in range(3):
            value = change[i, j]
            if (i == 0) != (j == 0):
                value *= passed
            out[i, j] = value
            total += value
        for j in range(3):
            out[i, j] /= total


@njit(cache=True, nogil=True)
def _forward(likely, change, passed):  # type: ignore[no-untyped-def]
    """Return P(state) by minute from what was heard up to it."""
    n = likely.shape[0]
    found = np.empty((n, 3))
    step = np.empty((3, 3))
    p0, p1, p2 = 0.9, 0.05, 0.05
    for t in range(n):
        _weigh(change, passed[t], step)
        q0 = (p0 * step[0, 0] + p1 * step[1, 0] + p2 * step[2, 0]) * likely[t, 0]
        q1 = (p0 * step[0, 1] + p1 * step[1, 1] + p2 * step[2, 1]) * likely[t, 1]
        q2 = (p0 * step[0, 2] + p1 * step[1, 2] + p2 * step[2, 2]) * likely[t, 2]
        total = q0 + q1 + q2
        p0, p1, p2 = q0 / total, q1 / total, q2 / total
        found[t, 0], found[t, 1], found[t, 2] = p0, p1, p2
    return found


@njit(cache=True, nogil=True)
def _expected(likely, change, passed):  # type: ignore[no-untyped-def]
    """Return P(state) by minute from the whole log."""
    n = likely.shape[0]
    found = _forward(likely, change, passed)
    step = np.empty((3, 3))
    b0, b1, b2 = 1.0, 1.0, 1.0
    for t in range(n - 1, -1, -1):
        w0, w1, w2 = found[t, 0] * b0, found[t, 1] * b1, found[t, 2] * b2
        total = w0 + w1 + w2
        found[t, 0], found[t, 1], found[t, 2] = w0 / total, w1 / total, w2 / total
        _weigh(change, passed[t], step)
        c0, c1, c2 = likely[t, 0] * b0, likely[t, 1] * b1, likely[t, 2] * b2
        a0 = step[0, 0] * c0 + step[0, 1] * c1 + step[0, 2] * c2
        a1 = step[1, 0] * c0 + step[1, 1] * c1 + step[1, 2] * c2
        a2 = step[2, 0] * c0 + step[2, 1] * c1 + step[2, 2] * c2
        whole = a0 + a1 + a2
        b0, b1, b2 = a0 / whole, a1 / whole, a2 / whole
    return found
