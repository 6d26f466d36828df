"""A room's heat or cold in a plan, on any linear network of heat stores (docs/methods I10, B5, B6)."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.day_plan.programme import Programme, Terms
from warmeter.core.errors import OutOfRange
from warmeter.core.units import W_PER_KW

# A limit is moved by so much beyond what can just be held: without it a plan has but one way, which rounding closes [K].
SLACK_K = 0.01
KEPT_K = 1e-5
# A kelvin beyond the limit of what may be warmed or cooled ahead, against one of what people ask.
AHEAD_WEIGHT = 0.01
COLDEST_C, WARMEST_C = -100.0, 300.0


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomHeat:
    """A room whose heating or cooling may be moved within limits; the air is the first of its nodes.

    Parameters
    ----------
    key, name : str
        Its id, and what people call it.
    state : (node, node) float array
        How each node follows from each over a slot.
    per_kw : (node,) float array
        What a kW of heat through a slot adds [K].
    brought_c : (slot, node) float array
        What weather, gains and the rooms beside add [K].
    start_c : (node,) float array
    most_kw : (slot,) float array
        The most heat; below zero the slot cools, with so much at most.
    per_draw : (slot,) float array
        Heat or cold for each kWh drawn, above 0.
    low_c, high_c : (slot,) float arrays
        Limits of the air at the end of each slot.
    end_low_c, end_high_c : (node,) float arrays
        What each node has at least and at most at the end, infinite for none: else the plan empties the house.
    guard_low_c, guard_high_c : float
        Protection limits, which nothing undercuts.
    """

    key: str
    name: str
    state: Floats
    per_kw: Floats
    brought_c: Floats
    start_c: Floats
    most_kw: Floats
    per_draw: Floats
    low_c: Floats
    high_c: Floats
    end_low_c: Floats
    end_high_c: Floats
    guard_low_c: float = COLDEST_C
    guard_high_c: float = WARMEST_C

    def __post_init__(self) -> None:
        slots, nodes = self.brought_c.shape
        for name, each in (
            ("most heat", self.most_kw),
            ("heat for each kWh", self.per_draw),
            ("lower limits", self.low_c),
            ("upper limits", self.high_c),
        ):
            if each.size != slots:
                raise OutOfRange(f"slots of {name}", each.size, slots, slots)
        sizes = {each.size for each in (self.per_kw, self.start_c, self.end_low_c, self.end_high_c)}
        if self.state.shape != (nodes, nodes) or sizes != {nodes}:
            raise OutOfRange("nodes of a room", self.start_c.size, nodes, nodes)

    @property
    def most_draw_kw(self) -> Floats:
        """The most that it draws in each slot, shape (slot,) [kW]."""
        most: Floats = np.abs(self.most_kw) / self.per_draw
        return most


def add_room(model: Programme, hours: float, room: RoomHeat, needs: Terms, watts: dict[str, Terms]) -> Ints:
    """Add a room to a programme and return the places of its heat in each slot [kW, cold below zero]."""
    heat, course = _add_course(model, room)
    own: Terms = [[] for _ in range(heat.size)]
    for slot, column in enumerate(heat.tolist()):
        drawn = (1.0 if room.most_kw[slot] >= 0 else -1.0) / float(room.per_draw[slot])
        needs[slot].append((column, drawn * hours))
        own[slot].append((column, drawn * W_PER_KW))
        air = int(course[slot, 0])
        model.low[air], model.high[air] = float(room.low_c[slot]), float(room.high_c[slot])
    for node in range(room.start_c.size):
        last = int(course[-1, node])
        model.low[last] = max(model.low[last], float(room.end_low_c[node]))
        model.high[last] = min(model.high[last], float(room.end_high_c[node]))
    watts[room.key] = own
    return heat


def _add_course(model: Programme, room: RoomHeat) -> tuple[Ints, Ints]:
    """Add a room's heat, and its nodes at the end of each slot, shape (slot, node)."""
    slots, nodes = room.brought_c.shape
    heat = model.variables(slots, 0.0, 0.0)
    for slot, column in enumerate(heat.tolist()):
        model.low[column], model.high[column] = min(0.0, float(room.most_kw[slot])), max(0.0, float(room.most_kw[slot]))
    course = model.variables(slots * nodes, COLDEST_C, WARMEST_C).reshape(slots, nodes)
    for slot in range(slots):
        for node in range(nodes):
            given = float(room.brought_c[slot, node])
            terms = [(int(course[slot, node]), 1.0), (int(heat[slot]), -float(room.per_kw[node]))]
            if slot == 0:
                given += float(room.state[node] @ room.start_c)
            else:
                terms += [(int(course[slot - 1, k]), -float(room.state[node, k])) for k in range(nodes)]
            model.row(terms, given, given)
    return heat, course


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachableRoom:
    """A room with limits that it can keep, and by how much they had to give way, shapes (slot,) [K].

    ``off_at_end_k`` is by how much its nodes end off what was asked [K], shape (node,).
    """

    room: RoomHeat
    too_cold_k: Floats
    too_warm_k: Floats
    off_at_end_k: Floats

    @property
    def is_kept(self) -> bool:
        """Whether everything asked of it can be kept."""
        most = max(float(self.too_cold_k.max()), float(self.too_warm_k.max()), float(self.off_at_end_k.max()))
        return most < KEPT_K


def reachable(room: RoomHeat) -> ReachableRoom:
    """Return a room whose limits give way, as little as they can in all, where no heat or cold can keep them.

    A room that can keep them stays as it is. Raises OutOfRange where the room's model has no course at all.
    """
    model = Programme()
    _, course = _add_course(model, room)
    slots, nodes = room.brought_c.shape
    under, over = model.variables(slots, 0.0, np.inf), model.variables(slots, 0.0, np.inf)
    short = model.variables(nodes, 0.0, np.inf)
    for column in short.tolist():
        model.cost[column] = 1.0
    for slot in range(slots):
        # A room that is still warm after its ceiling fell must not be left cold for that, nor a cool one warm.
        is_heated = room.most_kw[slot] >= 0
        model.cost[int(under[slot])] = 1.0 if is_heated else AHEAD_WEIGHT
        model.cost[int(over[slot])] = AHEAD_WEIGHT if is_heated else 1.0
        air = int(course[slot, 0])
        model.row([(air, 1.0), (int(under[slot]), 1.0)], float(room.low_c[slot]), np.inf)
        model.row([(air, 1.0), (int(over[slot]), -1.0)], -np.inf, float(room.high_c[slot]))
    for node in range(nodes):
        model.row([(int(course[-1, node]), 1.0), (int(short[node]), 1.0)], float(room.end_low_c[node]), np.inf)
        model.row([(int(course[-1, node]), 1.0), (int(short[node]), -1.0)], -np.inf, float(room.end_high_c[node]))
    _, values, _ = model.solve(60.0, 0.0)
    if values is None:
        raise OutOfRange("a room's temperatures", float(room.start_c[0]), COLDEST_C, WARMEST_C, "°C")
    too_cold, too_warm, missing = (np.clip(values[each], 0.0, None) for each in (under, over, short))
    found = ReachableRoom(room=room, too_cold_k=too_cold, too_warm_k=too_warm, off_at_end_k=missing)
    if found.is_kept:
        return found
    moved = with_leeway(
        replace(
            room,
            low_c=room.low_c - too_cold,
            high_c=room.high_c + too_warm,
            end_low_c=room.end_low_c - missing,
            end_high_c=room.end_high_c + missing,
        ),
        SLACK_K,
    )
    return replace(found, room=moved)


def with_leeway(room: RoomHeat, by_k: float) -> RoomHeat:
    """Return a room whose limits are wider by so much [K]."""
    return replace(
        room,
        low_c=room.low_c - by_k,
        high_c=room.high_c + by_k,
        end_low_c=room.end_low_c - by_k,
        end_high_c=room.end_high_c + by_k,
    )


def room_course_c(room: RoomHeat, heat_kw: Floats) -> list[list[float]]:
    """Return the nodes at the end of each slot, walked in plain sums [°C]."""
    course = []
    nodes = [float(each) for each in room.start_c]
    state = [[float(each) for each in row] for row in room.state]
    for slot, kw in enumerate(heat_kw.tolist()):
        nodes = [
            sum(factor * node for factor, node in zip(row, nodes, strict=True)) + float(per) * kw + float(brought)
            for row, per, brought in zip(state, room.per_kw, room.brought_c[slot], strict=True)
        ]
        course.append(nodes)
    return course
