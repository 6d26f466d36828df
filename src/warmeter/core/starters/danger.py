"""Rules to start from for water and frost."""

from collections.abc import Sequence
from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetPoint, ShutOff, Step
from warmeter.core.starters.starter import room_name, rule_of, tell
from warmeter.core.units import S_PER_DAY

# A pad that a splash or a mop touches is wet for seconds; a leak stays.
WET_FOR_S = 10
FROST_TELL_C, FROST_HEAT_C = 4.5, 3.0


def leak_rule(home: Home, sensor_id: str, more: Sequence[Step], words: str) -> Rule:
    """Return the rule for water at a sensor: some steps, then told again and again."""
    sensor = home.device(sensor_id)
    return rule_of(
        f"Water at {sensor.name}",
        "safety",
        InState(of=Signal(quantity="is_wet", subject_id=sensor_id)),
        [*more, tell(home, f"Water in {room_name(home, sensor)}{words}", repeat_s=600, most=100)],
        reading="is",
        for_s=WET_FOR_S,
        put_back=PutBack(
            when=((InState(of=Signal(quantity="is_wet", subject_id=sensor_id), is_on=False),),), for_s=600
        ),
        intent="Nobody should find the water by stepping into it.",
        stale_s=2 * S_PER_DAY,
        limits=RuleLimits(when_stale="tell"),
    )


def leak_shutting_valve(home: Home, sensor_id: str) -> Rule:
    """Return the leak rule that shuts the water; ``HomeError`` where nothing says which valve feeds what leaks there."""
    valves = tuple(valve.id for valve in valves_of(home, sensor_id))
    return leak_rule(home, sensor_id, [ShutOff(target_ids=valves)], ", the water is shut off")


def valves_of(home: Home, sensor_id: str) -> list[Device]:
    """Return the valves that shut the water on its way to a leak sensor: a branch's and the main one, where both are there.

    Those of the sensor's own leak chain in the survey; else the only one of the home.

    Raises
    ------
    HomeError
        If there is no valve, or there are several and no chain says which feeds the water there.
    """
    valves = [d for d in home.devices if d.kind == "water_valve" and d.is_in_service]
    chained = {i for c in home.safety_chains if c.kind == "leak" and sensor_id in c.device_ids for i in c.device_ids}
    own = [d for d in valves if d.id in chained]
    if own:
        return own
    if not valves:
        raise HomeError("this home has no water valve; enter one in the survey, or only tell")
    if len(valves) > 1:
        names = " or ".join(d.name for d in valves)
        raise HomeError(
            f"which valve feeds the water at {home.device(sensor_id).name}: {names}? Put the sensor and its valve into one leak "
            "alarm path in the survey, or only tell"
        )
    return valves


def leak_cutting_cooling(home: Home, sensor_id: str) -> Rule:
    """Return the leak rule that cuts the cooling unit above the sensor; ``HomeError`` if none stands there."""
    sensor = home.device(sensor_id)
    units = [h.id for h in home.heaters if h.room_id == sensor.room_id and h.kind == "split_unit"]
    if not units:
        raise HomeError(f"no cooling unit stands in the room of {sensor.name}: what drips there is other water")
    return leak_rule(
        home, sensor_id, [ShutOff(target_ids=(units[0],))], ", the cooling unit is cut; it drips on for a while"
    )


def _frost_signal(home: Home, place_id: str) -> tuple[Signal, str, str | None]:
    """Return what tells the cold at a pipe, its name, and the room."""
    device = next((d for d in home.devices if d.id == place_id), None)
    if device is not None:
        return Signal(quantity="room_temperature", subject_id=device.id), device.name, device.room_id
    room = home.room(place_id)
    return Signal(quantity="room_temperature", subject_id=room.id), room.name, room.id


def frost_places(home: Home) -> list[tuple[str, str]]:
    """Return probes and rooms at pipes that could freeze."""
    rooms = {t.room_id for t in home.things if t.kind in ("water_pipe", "pump")}
    probes = [(d.id, d.name) for d in home.devices if d.kind == "floor_probe" and d.room_id in rooms]
    return [*probes, *((r.id, r.name) for r in home.rooms if r.id in rooms)]


def frost_rule(home: Home, place_id: str, *, acts: bool) -> Rule:
    """Return the rule for the cold at a pipe: only told early, or heated before it freezes.

    Raises
    ------
    HomeError
        If it shall be heated and stands in no zone.
    """
    signal, name, room_id = _frost_signal(home, place_id)
    zone = home.zone_of_room(room_id) if room_id else None
    if acts and zone is None:
        raise HomeError(f"{name} stands in no zone that could be heated; only tell")
    steps: list[Step] = [SetPoint(zone_ids=(zone.id,), value_c=12.0)] if acts and zone else []
    steps.append(tell(home, f"{name} is near freezing: {{value}}", repeat_s=3600, most=100))
    cold = Compared(of=signal, how="under", value=FROST_HEAT_C if acts else FROST_TELL_C, hysteresis=2.0)
    return rule_of(
        f"Frost at {name}",
        "safety",
        cold,
        steps,
        reading="is",
        for_s=300,
        put_back=PutBack(when=((replace(cold, how="over", value=cold.value + 2.0, hysteresis=0.0),),), for_s=1800),
        intent="The pipe must not burst while nobody is there.",
        limits=RuleLimits(when_stale="tell"),
    )
