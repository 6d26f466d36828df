"""A home's rooms on ducts: temperature of each room for each choice of sensors, what trimming a vent does, energy."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.building.losses import prior_of, surveyed_room
from warmeter.core.building.room_envelope import shared_w_k
from warmeter.core.ducts.duct_air import duct_air, room_flows_m3_h, share_shut
from warmeter.core.ducts.duct_shares import DuctShares
from warmeter.core.ducts.shared_air import AIR_J_M3K, DuctRun, DuctWish, SharedRooms, duct_run
from warmeter.core.ducts.vent_trim import HALF, RoomAir, TrimRoom, VentTrim, even_air, vent_trim
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem, SensorChoice, VentRound
from warmeter.core.thermal.heat_pump import cop_at
from warmeter.core.thermal.network import Link, RcNetwork
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, S_PER_H, W_MIN_PER_KWH

SETTLING_DAYS = 2
LEARNT_TAKEN = 0.8  # of the change, where the last round told what a notch does
NEVER_HEATS_K = 30.0  # so far under a cooling limit no heating setpoint begins
DEAD_K = 0.3


def shared_rooms(home: Home, system: DuctSystem, notches: Mapping[str, int] | None = None) -> SharedRooms:
    """Return a home's heated rooms on a system's fan, by their survey and usual gains, walls between them included.

    Raises
    ------
    HomeError
        If no heated room has a vent that lets air through.
    """
    rooms = [room for room in home.rooms if room.condition == "heated"]
    flows = room_flows_m3_h(system, notches)
    order = {room.id: place for place, room in enumerate(rooms)}
    if not sum(flow for key, flow in flows.items() if key in order) > 0:
        raise HomeError("no heated room has an open vent yet; add the vents under Ducts")
    stores: dict[str, float] = {}
    links: list[Link] = []
    for room in rooms:
        rc = surveyed_room(home, room)
        air, fabric = f"{room.id}.air", f"{room.id}.fabric"
        # Furniture and surfaces answer with the air, as in a room with a heater of its own.
        stores |= {air: rc.air_j_k * (1.0 if home.heater_of(room.id) else 2.0), fabric: rc.fabric_j_k}
        links += [
            Link(air, "out", rc.air_out_w_k),
            Link(air, fabric, rc.air_fabric_w_k),
            Link(fabric, "out", rc.fabric_out_w_k),
        ]
        links += [
            Link(fabric, f"{beyond}.fabric", conductance)
            for beyond, conductance in shared_w_k(home, room).items()
            if order[room.id] < order[beyond]
        ]
    a, b = RcNetwork(capacities_j_k=stores, boundaries=["out"], links=links).matrices()
    into_air = [1 + 2 * k for k in range(len(rooms))]
    return SharedRooms(
        room_ids=tuple(order),
        a=a,
        b=np.ascontiguousarray(b[:, [0, *into_air]]),
        air_j_k=np.array([stores[f"{key}.air"] for key in order]),
        flow_m3_s=np.array([flows.get(key, 0.0) / S_PER_H for key in order]),
        gain_w=np.array([prior_of(home, room).gain_w for room in rooms]),
    )


def weights_of(rooms: SharedRooms, choice: SensorChoice) -> Floats:
    """Return which rooms lead by which weight, shape (room,): the mean of those chosen.

    Raises
    ------
    HomeError
        If none of them is heated.
    """
    leads = np.array([1.0 if key in choice.room_ids else 0.0 for key in rooms.room_ids])
    if not leads.sum():
        raise HomeError(f"{choice.name} names no heated room")
    return np.asarray(leads / leads.sum(), dtype=np.float64)


def choices_of(home: Home, system: DuctSystem) -> tuple[SensorChoice, ...]:
    """Return the choices of leading sensors: the thermostat's room, the mean of all with vents, and those typed."""
    found = []
    if system.thermostat_room_id is not None:
        name = home.room(system.thermostat_room_id).name
        found.append(SensorChoice(name=f"{name} only"[:80], room_ids=(system.thermostat_room_id,)))
    if len(system.room_ids) > 1:
        found.append(SensorChoice(name=f"mean of {len(system.room_ids)}", room_ids=system.room_ids[:20]))
    return (*found, *system.choices)


@dataclass(frozen=True, slots=True, kw_only=True)
class DuctEnergy:
    """What a run took: fuel or electricity of the source, auxiliary heat and fan [kWh]."""

    source_kwh: float
    auxiliary_kwh: float
    cooling_kwh: float
    fan_kwh: float


def duct_energy(home: Home, system: DuctSystem, run: DuctRun, outdoor_c: Floats) -> DuctEnergy:
    """Return the energy of a run: a boiler's or furnace's fuel by its efficiency, a heat pump's by its COP."""
    source = home.source(system.source_id)
    plain = np.cumsum([0.0, *(0.0 if s.is_auxiliary else s.heat_w for s in system.stages)])[run.stages]
    extra = np.cumsum([0.0, *(s.heat_w if s.is_auxiliary else 0.0 for s in system.stages)])[run.stages]
    over = cop_at(source.cop_points, outdoor_c[:-1]) if source.kind == "heat_pump" else np.ones(plain.size)
    efficiency = source.efficiency if source.kind == "boiler" else 1.0
    cold = np.where(run.heat_w < 0, -run.heat_w, 0.0)
    return DuctEnergy(
        source_kwh=float((plain / over).sum()) / efficiency / W_MIN_PER_KWH,
        auxiliary_kwh=float(extra.sum()) / W_MIN_PER_KWH,
        cooling_kwh=float(cold.sum()) / system.eer / W_MIN_PER_KWH,
        fan_kwh=float(run.fan.sum()) * system.fan_w / W_MIN_PER_KWH,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceOutcome:
    """A settled day under one choice of sensors: rooms' means [°C], starts, hours of each stage, of the coil and of the fan, energy."""

    choice: SensorChoice
    room_c: dict[str, float]
    starts: int
    stage_h: tuple[float, ...]
    cold_h: float
    fan_h: float
    energy: DuctEnergy

    @property
    def spread_k(self) -> float:
        """From the coldest room to the warmest [K]."""
        return max(self.room_c.values()) - min(self.room_c.values())


def steady_rooms(
    rooms: SharedRooms, system: DuctSystem, weights: Floats, set_c: float, outdoor_c: float, *, is_cooling: bool = False
) -> Floats:
    """Return air and fabric of every room (2 room,) when the leading sensors are held at a temperature [°C].

    Heat, or cold, comes in even doses; the fan mixes for the share of time that the first stage, or the coil, would run,
    or always.
    """
    cold_w = system.cooling_w or 0.0
    first = max(cold_w, 1.0) if is_cooling else system.stages[0].heat_w
    bounds = (-cold_w, 0.0) if is_cooling else (0.0, sum(stage.heat_w for stage in system.stages))
    mixing = rooms.with_fan() - rooms.a
    duty = 1.0 if system.fan_mode == "always" else 0.5
    state = np.full(rooms.a.shape[0], set_c)
    lead = np.zeros(rooms.a.shape[0])
    lead[0::2] = weights
    for _ in range(30):
        a = rooms.a + duty * mixing
        at_rest = np.linalg.solve(a, -rooms.b @ np.concatenate(([outdoor_c], rooms.gain_w)))
        per_w = np.linalg.solve(a, -rooms.b[:, 1:] @ rooms.share)
        heat = float(np.clip((set_c - lead @ at_rest) / (lead @ per_w), *bounds))
        state = at_rest + heat * per_w
        least = {"always": 1.0, "part": system.part_min / MIN_PER_H}.get(system.fan_mode, 0.0)
        wanted = min(1.0, max(abs(heat) / first, least))
        if abs(wanted - duty) < 1e-6:
            break
        duty = wanted
    return np.asarray(state, dtype=np.float64)


def settled_day(
    home: Home,
    system: DuctSystem,
    rooms: SharedRooms,
    choice: SensorChoice,
    *,
    set_c: float,
    outdoor_c: float,
    is_cooling: bool = False,
) -> tuple[ChoiceOutcome, DuctRun]:
    """Return a day at one setpoint (or cooling limit) and outdoor temperature, after two days of settling, and its run."""
    weights = weights_of(rooms, choice)
    minutes = (SETTLING_DAYS + 1) * MIN_PER_DAY
    asked = np.full(minutes, set_c)
    wish = (
        DuctWish(heating_c=asked - NEVER_HEATS_K, cooling_c=asked, weights=weights)
        if is_cooling
        else DuctWish(heating_c=asked, cooling_c=None, weights=weights)
    )
    outdoors = np.full(minutes + 1, outdoor_c)
    start = steady_rooms(rooms, system, weights, set_c, outdoor_c, is_cooling=is_cooling)
    run = duct_run(rooms, system, wish, outdoors, start)
    begin = SETTLING_DAYS * MIN_PER_DAY
    last = DuctRun(
        room_c=run.room_c[:, begin:], stages=run.stages[begin:], fan=run.fan[begin:], heat_w=run.heat_w[begin:]
    )
    means = last.room_c.mean(axis=1)
    return (
        ChoiceOutcome(
            choice=choice,
            room_c=dict(zip(rooms.room_ids, (float(each) for each in means), strict=True)),
            starts=last.starts,
            cold_h=float((last.heat_w < 0).sum()) / MIN_PER_H,
            stage_h=tuple(float((last.stages > k).sum()) / MIN_PER_H for k in range(len(system.stages))),
            fan_h=float(last.fan.sum()) / MIN_PER_H,
            energy=duct_energy(home, system, last, outdoors[begin:]),
        ),
        last,
    )


def notch_effects_k(
    home: Home, system: DuctSystem, choice: SensorChoice, *, set_c: float, outdoor_c: float, is_cooling: bool = False
) -> dict[str, float]:
    """Return by how much a room falls against the mean for each notch that its vents are shut further [K].

    While cooling it rises by so much instead.
    Learnt from the last two rounds where the room's notches were moved between them; else by the steady state of the
    survey's rooms with and without the notch. Rooms whose vents cannot be shut further are opened for it.
    """
    learnt = _learnt_effects(system)
    sign = -1.0 if is_cooling else 1.0
    base = _off_mean(home, system, choice, None, set_c, outdoor_c, is_cooling=is_cooling)
    found = {}
    for key in system.room_ids:
        if key in learnt:
            found[key] = learnt[key]
            continue
        own = [vent for vent in system.vents if vent.room_id == key]
        step = 1 if all(vent.notch < system.most_notch for vent in own) else -1
        notches = {vent.id: max(0, vent.notch + step) for vent in own}
        moved = _off_mean(home, system, choice, notches, set_c, outdoor_c, is_cooling=is_cooling)
        found[key] = sign * step * (base[key] - moved[key])
    return found


def _off_mean(
    home: Home,
    system: DuctSystem,
    choice: SensorChoice,
    notches: Mapping[str, int] | None,
    set_c: float,
    outdoor_c: float,
    *,
    is_cooling: bool,
) -> dict[str, float]:
    rooms = shared_rooms(home, system, notches)
    air = steady_rooms(rooms, system, weights_of(rooms, choice), set_c, outdoor_c, is_cooling=is_cooling)[0::2]
    on_ducts = [k for k, key in enumerate(rooms.room_ids) if key in system.room_ids]
    mean = float(air[on_ducts].mean())
    return {rooms.room_ids[k]: float(air[k]) - mean for k in on_ducts}


def _learnt_effects(system: DuctSystem) -> dict[str, float]:
    """Return what a notch did in each room between the last two rounds, where it was moved and did something [K]."""
    if len(system.rounds) < 2:
        return {}
    before, after = system.rounds[-2:]
    if before.is_cooling != after.is_cooling:
        return {}
    then, now = ({d.room_id: d.diff_k for d in each.differences} for each in (before, after))
    set_then, set_now = dict(before.notches), dict(after.notches)
    sign, found = (-1.0 if after.is_cooling else 1.0), {}
    for key in system.room_ids:
        moves = [
            set_now[v.id] - set_then[v.id]
            for v in system.vents
            if v.room_id == key and {v.id} <= set_then.keys() & set_now.keys()
        ]
        if not moves or not sum(moves) or key not in then or key not in now:
            continue
        effect = sign * (then[key] - now[key]) / (sum(moves) / len(moves))
        if effect > 0:
            found[key] = effect
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimProposal:
    """A round of trimming: what was measured [K], notches of each vent afterwards, what it comes to, and the air then."""

    measured_k: dict[str, float]
    trim: VentTrim
    notches: dict[str, int]
    effects_k: dict[str, float]
    learnt: tuple[str, ...]
    even_m3_h: dict[str, float]
    before: DuctShares
    after: DuctShares


def trim_proposal(
    home: Home, system: DuctSystem, measured: VentRound, choice: SensorChoice, *, set_c: float, outdoor_c: float
) -> TrimProposal:
    """Return the notches to set for measured room differences, in half steps, within what may be shut.

    Raises
    ------
    HomeError
        If no measured room has a vent.
    """
    effects = notch_effects_k(home, system, choice, set_c=set_c, outdoor_c=outdoor_c, is_cooling=measured.is_cooling)
    learnt = _learnt_effects(system)
    vents = {key: [v for v in system.vents if v.room_id == key] for key in system.room_ids}
    rooms = [
        TrimRoom(
            id=each.room_id,
            diff_k=each.diff_k,
            notch=max(v.notch for v in vents[each.room_id]),
            k_per_notch=effects[each.room_id],
            most_notch=system.most_notch,
            full_notch=system.full_notch,
            area=sum(v.area_cm2 for v in vents[each.room_id]),
            taken=LEARNT_TAKEN if each.room_id in learnt else HALF,
        )
        for each in measured.differences
        if each.room_id in vents
    ]
    found = vent_trim(
        rooms, "cool" if measured.is_cooling else "heat", dead_k=DEAD_K, most_share_shut=system.most_share_shut
    )
    notches = {
        v.id: min(max(v.notch + step.step, 0), system.most_notch) for step in found.steps for v in vents[step.id]
    }
    mean = sum(room.diff_k for room in rooms) / len(rooms)
    return TrimProposal(
        measured_k={room.id: room.diff_k - mean for room in rooms},
        trim=found,
        notches=notches,
        effects_k=effects,
        learnt=tuple(learnt),
        even_m3_h=_even_air(system, rooms, set_c, outdoor_c) if not measured.is_cooling else {},
        before=duct_air(system),
        after=duct_air(system, notches),
    )


def _even_air(system: DuctSystem, rooms: Sequence[TrimRoom], set_c: float, outdoor_c: float) -> dict[str, float]:
    """Return the air that would bring each measured room to the mean of all, their exchange left out [m³/h].

    Nothing where a room is not warmer than outdoors, or not cooler than the supply: air does not even it then.
    """
    flows = room_flows_m3_h(system)
    supply_c = set_c + supply_excess_k(system, sum(flows.values()))
    if outdoor_c >= set_c or not all(outdoor_c < set_c + room.diff_k < supply_c for room in rooms):
        return {}
    found = even_air(
        [RoomAir(id=room.id, room_c=set_c + room.diff_k, target_c=set_c, flow_m3_h=flows[room.id]) for room in rooms],
        supply_c=supply_c,
        outdoor_c=outdoor_c,
    )
    return {each.id: each.scaled_m3_h for each in found}


def shut_shares(system: DuctSystem, proposal: TrimProposal) -> tuple[float, float]:
    """Return which share of the vent area is shut before and after (ratio)."""
    return share_shut(system), share_shut(system, proposal.notches)


def supply_excess_k(system: DuctSystem, flow_m3_h: float) -> float:
    """Return how much warmer the air leaves the furnace than it comes back, on its first stage [K]."""
    return system.stages[0].heat_w / (AIR_J_M3K * flow_m3_h / S_PER_H)
