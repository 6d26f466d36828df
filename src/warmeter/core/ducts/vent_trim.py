"""How many notches each vent is shut, from how far its room is off the mean (Q8), and the air that would even it (M5)."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, copysign
from typing import Literal

from warmeter.core.errors import HomeError, OutOfRange

TrimMode = Literal["heat", "cool"]
Why = Literal["dead", "unknown", "open", "shut"]
HALF, SLACK = 0.5, 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimRoom:
    """A room: how far off the mean [K], its vents' notch and limits, what a notch changes [K], and their area.

    ``taken`` is the part of the change that is made: half, for doors and walls between rooms are left out, more where
    what a notch does was measured.
    """

    id: str
    diff_k: float
    notch: int
    k_per_notch: float | None
    most_notch: int
    full_notch: int
    area: float
    taken: float = HALF


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimStep:
    """What is to be done in a room: notches wanted, the step taken and what of it was refused, and why.

    ``wanted`` is None where nobody knows what a notch does; ``diff_after_k`` is predicted.
    """

    id: str
    wanted: float | None
    step: int
    refused: int
    why: Why | None
    notch_after: int
    diff_after_k: float


@dataclass(frozen=True, slots=True, kw_only=True)
class VentTrim:
    """A round of trimming; ``is_refused`` where too much area would be shut: nothing is moved then."""

    is_refused: bool
    steps: tuple[TrimStep, ...]
    share_before: float
    share_after: float
    spread_before_k: float
    spread_after_k: float


def vent_trim(rooms: Sequence[TrimRoom], mode: TrimMode, *, dead_k: float, most_share_shut: float) -> VentTrim:
    """Return the notches to set: half of what would even the rooms, then a day is waited and they are measured again.

    Raises
    ------
    HomeError
        If there are no rooms.

    Notes
    -----
    docs/methods Q8: w = e / (2 s), whole notches, x.5 to the smaller move; more than half where s was measured.
    """
    if not rooms:
        raise HomeError("no rooms to even")
    mean = sum(room.diff_k for room in rooms) / len(rooms)
    sign = 1.0 if mode == "heat" else -1.0
    excess = {room.id: sign * (room.diff_k - mean) for room in rooms}
    moves = [_move(room, excess[room.id], dead_k) for room in rooms]
    before = _share_shut(rooms, [room.notch for room in rooms])
    after = _share_shut(rooms, [room.notch + move.step for room, move in zip(rooms, moves, strict=True)])
    is_refused = after > most_share_shut + SLACK and after > before + SLACK
    if is_refused:
        moves = [_Move(m.wanted, 0, m.step + m.refused, m.why) for m in moves]
        after = before
    left = {r.id: excess[r.id] - (r.k_per_notch or 0.0) * m.step for r, m in zip(rooms, moves, strict=True)}
    middle = sum(left.values()) / len(left)
    off = {key: sign * (value - middle) for key, value in left.items()}
    return VentTrim(
        is_refused=is_refused,
        steps=tuple(
            TrimStep(
                id=room.id,
                wanted=move.wanted,
                step=move.step,
                refused=move.refused,
                why=move.why,
                notch_after=room.notch + move.step,
                diff_after_k=off[room.id],
            )
            for room, move in zip(rooms, moves, strict=True)
        ),
        share_before=before,
        share_after=after,
        spread_before_k=max(excess.values()) - min(excess.values()),
        spread_after_k=max(left.values()) - min(left.values()),
    )


@dataclass(frozen=True, slots=True)
class _Move:
    wanted: float | None
    step: int
    refused: int
    why: Why | None


def _move(room: TrimRoom, excess_k: float, dead_k: float) -> _Move:
    if abs(excess_k) <= dead_k + SLACK:
        return _Move(0.0, 0, 0, "dead")
    if room.k_per_notch is None or room.k_per_notch <= 0:
        return _Move(None, 0, 0, "unknown")
    wanted = room.taken * excess_k / room.k_per_notch
    whole = int(copysign(max(0, ceil(abs(wanted) - HALF - SLACK)), wanted))
    after = min(max(room.notch + whole, 0), room.most_notch)
    step = after - room.notch
    why: Why | None = None if step == whole else "open" if whole < 0 else "shut"
    return _Move(wanted, step, whole - step, why)


def _share_shut(rooms: Sequence[TrimRoom], notches: Sequence[int]) -> float:
    shut = sum(room.area * notch / room.full_notch for room, notch in zip(rooms, notches, strict=True))
    return shut / sum(room.area for room in rooms)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomAir:
    """A room's temperature and what it should have [°C], and its air [m³/h]."""

    id: str
    room_c: float
    target_c: float
    flow_m3_h: float


@dataclass(frozen=True, slots=True, kw_only=True)
class EvenAir:
    """The air that would bring a room to its target: as a ratio, plain, and with all the air as it is [m³/h]."""

    id: str
    ratio: float
    flow_m3_h: float
    scaled_m3_h: float


def even_air(rooms: Sequence[RoomAir], *, supply_c: float, outdoor_c: float) -> tuple[EvenAir, ...]:
    """Return the air that each room would need, its exchange with other rooms left out; take half of each change.

    Raises
    ------
    OutOfRange
        If a room is as warm as the supply or as outdoors, so that air changes nothing there.

    Notes
    -----
    docs/methods M5: k = (θ_t − θ_e)/(θ − θ_e) · (θ_s − θ)/(θ_s − θ_t).
    """
    ratios = []
    for room in rooms:
        if room.room_c == outdoor_c or supply_c == room.target_c:
            raise OutOfRange(f"temperature of {room.id}", room.room_c, outdoor_c, supply_c, "°C")
        ratios.append(
            (room.target_c - outdoor_c)
            / (room.room_c - outdoor_c)
            * (supply_c - room.room_c)
            / (supply_c - room.target_c)
        )
    flows = [ratio * room.flow_m3_h for ratio, room in zip(ratios, rooms, strict=True)]
    scale = sum(room.flow_m3_h for room in rooms) / sum(flows)
    return tuple(
        EvenAir(id=room.id, ratio=ratio, flow_m3_h=flow, scaled_m3_h=scale * flow)
        for room, ratio, flow in zip(rooms, ratios, flows, strict=True)
    )
