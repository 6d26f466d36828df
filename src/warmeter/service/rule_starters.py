"""Rules to start from, filled from a home's devices, safety first; where practitioners differ, the schools side by side."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions import (
    AtTime,
    Clauses,
    Compared,
    Condition,
    Fact,
    Happens,
    Hours,
    InState,
    MachineDoes,
    Moving,
    RanToday,
    Signal,
)
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.home.rules import (
    Blinds,
    Limits,
    PutBack,
    Rule,
    RuleKind,
    SetLevel,
    SetPoint,
    ShutOff,
    Step,
    Switch,
    Tell,
    TimedRun,
)
from warmeter.core.home.zones import Zone
from warmeter.service.ruling import first_chain

DAY_S = 86_400
ANSWERED = Happens(event="statement", word="Answered")


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """One way to do it, what speaks for and against it, and the rule for a place of the home."""

    key: str
    name: str
    for_it: str
    against_it: str
    make: Callable[[Home, str], Rule]


@dataclass(frozen=True, slots=True, kw_only=True)
class Starter:
    """A rule to start from.

    Parameters
    ----------
    places : callable
        Where in a home it can stand: (id, name) of devices, rooms, zones or machines.
    needs : str
        What a home must have for it.
    caution : str
        The usual caution, where it can hurt.
    """

    key: str
    name: str
    what: str
    needs: str
    places: Callable[[Home], list[tuple[str, str]]]
    schools: tuple[School, ...]
    caution: str = ""


def started(home: Home, starter_key: str, school_key: str, place_id: str) -> tuple[Home, Rule]:
    """Return a home with a chain to tell if the starter needs one, and the rule filled for a place.

    Raises
    ------
    HomeError
        If there is no such starter, or the home has nothing for it, with what to enter.
    """
    starter = next((s for s in STARTERS if s.key == starter_key), None)
    school = next((s for s in starter.schools if s.key == school_key), None) if starter else None
    if starter is None or school is None:
        raise HomeError("there is no such rule to start from")
    places = dict(starter.places(home))
    if not places:
        raise HomeError(f"{starter.name} needs {starter.needs}; enter it in the survey first")
    if place_id not in places:
        raise HomeError("choose where it shall work")
    with_chain, _ = first_chain(home)
    rule = school.make(with_chain, place_id)
    tells = any(isinstance(step, Tell) for step in rule.then)
    return (with_chain if tells else home), rule


def _rule(
    name: str,
    kind: RuleKind,
    watch: Condition | Sequence[Condition],
    then: Sequence[Step],
    *,
    stale_s: int = 3600,
    limits: Limits | None = None,
    **parts: object,
) -> Rule:
    clause = tuple(watch) if isinstance(watch, list | tuple) else (watch,)
    base = Rule(id="new", name=name[:80], kind=kind, watch=(clause,), then=tuple(then))  # type: ignore[arg-type]
    own = replace(limits or Limits(), stale_s=stale_s)
    return replace(base, limits=own, **parts)  # type: ignore[arg-type]


def _of_kinds(*kinds: str) -> Callable[[Home], list[tuple[str, str]]]:
    return lambda home: [(d.id, d.name) for d in home.devices if d.kind in kinds and d.is_in_service]


def _machines(home: Home) -> list[tuple[str, str]]:
    return [(m.id, m.name) for m in home.appliances]


def _chain(home: Home) -> str:
    return first_chain(home)[1].id


def _tell(home: Home, text: str, *, repeat_s: int | None = None, most: int = 1) -> Tell:
    return Tell(chain_id=_chain(home), text=text, repeat_s=repeat_s, most=most)


def _room_name(home: Home, device: Device) -> str:
    return home.room(device.room_id).name if device.room_id else device.name


def _zone_of(home: Home, device: Device) -> Zone:
    zone = home.zone_of_room(device.room_id) if device.room_id else None
    if zone is None:
        raise HomeError(f"{device.name} stands in no zone; place its room in a zone first")
    return zone


def _idle_id(home: Home) -> str:
    """Return the level that saves most: the coldest that is meant to save."""
    saving = [level for level in home.levels if level.is_saving] or list(home.levels)
    if not saving:
        raise HomeError("this home has no level to fall back to")
    return min(saving, key=lambda level: level.heating_c).id


# Leaks


def _leak(home: Home, sensor_id: str, more: Sequence[Step], words: str) -> Rule:
    sensor = home.device(sensor_id)
    return _rule(
        f"Water at {sensor.name}",
        "safety",
        InState(of=Signal(quantity="is_wet", subject_id=sensor_id)),
        [*more, _tell(home, f"Water in {_room_name(home, sensor)}{words}", repeat_s=600, most=100)],
        reading="is",
        put_back=PutBack(
            when=((InState(of=Signal(quantity="is_wet", subject_id=sensor_id), is_on=False),),), for_s=600
        ),
        intent="Nobody should find the water by stepping into it.",
        stale_s=2 * DAY_S,
        limits=Limits(when_stale="tell"),
    )


def _leak_valve(home: Home, sensor_id: str) -> Rule:
    valves = [d.id for d in home.devices if d.kind == "water_valve" and d.is_in_service]
    if not valves:
        raise HomeError("this home has no water valve; enter one in the survey, or only tell")
    return _leak(home, sensor_id, [ShutOff(target_ids=(valves[0],))], ", the water is shut off")


def _leak_cooling(home: Home, sensor_id: str) -> Rule:
    sensor = home.device(sensor_id)
    units = [h.id for h in home.heaters if h.room_id == sensor.room_id and h.kind == "split_unit"]
    if not units:
        raise HomeError(f"no cooling unit stands in the room of {sensor.name}: what drips there is other water")
    return _leak(
        home, sensor_id, [ShutOff(target_ids=(units[0],))], ", the cooling unit is cut; it drips on for a while"
    )


# Frost


def _frost_signal(home: Home, place_id: str) -> tuple[Signal, str, str | None]:
    """Return what tells the cold at a pipe, its name, and the room."""
    device = next((d for d in home.devices if d.id == place_id), None)
    if device is not None:
        return Signal(quantity="room_temperature", subject_id=device.id), device.name, device.room_id
    room = home.room(place_id)
    return Signal(quantity="room_temperature", subject_id=room.id), room.name, room.id


def _frost_places(home: Home) -> list[tuple[str, str]]:
    rooms = {t.room_id for t in home.things if t.kind in ("water_pipe", "pump")}
    probes = [(d.id, d.name) for d in home.devices if d.kind == "floor_probe" and d.room_id in rooms]
    return [*probes, *((r.id, r.name) for r in home.rooms if r.id in rooms)]


def _frost(home: Home, place_id: str, *, acts: bool) -> Rule:
    signal, name, room_id = _frost_signal(home, place_id)
    zone = home.zone_of_room(room_id) if room_id else None
    if acts and zone is None:
        raise HomeError(f"{name} stands in no zone that could be heated; only tell")
    steps: list[Step] = [SetPoint(zone_ids=(zone.id,), value_c=12.0)] if acts and zone else []
    steps.append(_tell(home, f"{name} is near freezing: {{value}}", repeat_s=3600, most=100))
    cold = Compared(of=signal, how="under", value=3.0 if acts else 4.5, hysteresis=2.0)
    return _rule(
        f"Frost at {name}",
        "safety",
        cold,
        steps,
        reading="is",
        for_s=300,
        put_back=PutBack(when=((replace(cold, how="over", value=cold.value + 2.0, hysteresis=0.0),),), for_s=1800),
        intent="The pipe must not burst while nobody is there.",
        limits=Limits(when_stale="tell"),
    )


# Openings


def _contacts(home: Home) -> list[tuple[str, str]]:
    """Return contacts in rooms of a zone that are no witness of another device."""
    witnesses = {d.witness_id for d in home.devices}
    found = [d for d in home.devices if d.kind == "contact" and d.is_in_service and d.id not in witnesses]
    return [(d.id, d.name) for d in found if d.room_id and home.zone_of_room(d.room_id)]


def _opening(home: Home, contact_id: str) -> Rule:
    contact = home.device(contact_id)
    zone = _zone_of(home, contact)
    ids = {i for i, _ in _contacts(home)} - {contact_id}
    contacts = [contact, *(d for d in home.devices if d.id in ids and d.room_id == contact.room_id)]
    signals = [Signal(quantity="is_open", subject_id=d.id) for d in contacts]
    shut: Clauses = tuple((InState(of=signal, is_on=False),) for signal in signals)
    return _rule(
        f"{zone.name} opened",
        "window_lock",
        [InState(of=signal) for signal in signals],
        [SetLevel(zone_ids=(zone.id,), level_id=_idle_id(home))],
        for_s=180,
        put_back=PutBack(when=shut, for_s=120),
        intent="No heating out of the window.",
        stale_s=DAY_S,
        limits=Limits(when_stale="put_back"),
    )


def _rooms_with_sensor(home: Home) -> list[tuple[str, str]]:
    rooms = {d.room_id for d in home.devices if "room_temperature" in d.quantities}
    return [(r.id, r.name) for r in home.rooms if r.id in rooms and home.zone_of_room(r.id) is not None]


def _drop(home: Home, room_id: str, drop_k: float = 1.0) -> Rule:
    zone = home.zone_of_room(room_id)
    if zone is None:
        raise HomeError(f"{home.room(room_id).name} stands in no zone")
    signal = Signal(quantity="room_temperature", subject_id=room_id)
    return _rule(
        f"{home.room(room_id).name} falls fast",
        "window_lock",
        Moving(of=signal, how="falling", by=drop_k, within_s=600),
        [SetLevel(zone_ids=(zone.id,), level_id=_idle_id(home))],
        put_back=PutBack(when=((Moving(of=signal, how="rising", by=0.3, within_s=1200),),), after_s=1800),
        intent="No contact here: the fall of temperature tells the window.",
    )


# Damp air


def _fans(home: Home, room_id: str) -> list[str]:
    """Return what could dry a room: relays and plugs in it that drive no heater, and dryers anywhere."""
    near = [
        d.id
        for d in home.devices
        if d.kind in ("relay", "plug") and d.room_id == room_id and d.is_in_service and d.drives_id is None
    ]
    return near + [m.id for m in home.appliances if m.kind == "dehumidifier"]


def _damp_places(home: Home) -> list[tuple[str, str]]:
    return [(r.id, r.name) for r in home.rooms if r.condition == "heated" and _fans(home, r.id)]


def _humid(home: Home, room_id: str) -> Rule:
    damp = Compared(of=Signal(quantity="relative_humidity", subject_id=room_id), how="over", value=65.0, hysteresis=5.0)
    return _damp_rule(home, room_id, damp, "65 % and back under 60 %")


def _damper_than_outside(home: Home, room_id: str) -> Rule:
    inside = Signal(quantity="absolute_humidity", subject_id=room_id)
    outside = Signal(quantity="absolute_humidity")
    damp = Compared(of=inside, minus=outside, how="over", value=3.0, hysteresis=1.0)
    return _damp_rule(home, room_id, damp, "only while airing dries")


def _damp_rule(home: Home, room_id: str, damp: Compared, words: str) -> Rule:
    return _rule(
        f"{home.room(room_id).name} damp",
        "rule",
        damp,
        [Switch(target_ids=(_fans(home, room_id)[0],), is_on=True)],
        reading="is",
        for_s=300,
        put_back=PutBack(
            when=((replace(damp, how="under", value=damp.value - damp.hysteresis, hysteresis=0.0),),),
            for_s=300,
            after_s=2 * 3600,
        ),
        intent=f"Out with the steam: {words}.",
        limits=Limits(min_on_s=300, min_off_s=600, when_stale="put_back", cool_off_s=600),
    )


# Cooling and sun


def _splits(home: Home) -> list[tuple[str, str]]:
    return [(h.id, h.name) for h in home.heaters if h.kind == "split_unit"]


def _split(home: Home, heater_id: str) -> Rule:
    heater = home.heater(heater_id)
    room = home.room(heater.room_id)
    signal = Signal(quantity="room_temperature", subject_id=room.id)
    ids = {i for i, _ in _contacts(home)}
    contacts = [d for d in home.devices if d.id in ids and d.room_id == room.id]
    guards: list[tuple[Condition, ...]] = [(InState(of=Signal(quantity="is_in", subject_id=room.id)),)]
    guards += [(InState(of=Signal(quantity="is_open", subject_id=d.id), is_on=False),) for d in contacts]
    return _rule(
        f"{room.name} cooled",
        "rule",
        Compared(of=signal, how="over", value=27.0, hysteresis=1.5),
        [Switch(target_ids=(heater_id,), is_on=True)],
        reading="is",
        for_s=600,
        only_while=tuple(guards),
        put_back=PutBack(when=((Compared(of=signal, how="under", value=25.5),),), for_s=300),
        intent="Cool only where somebody is, and not out of the window.",
        limits=Limits(min_on_s=600, min_off_s=600, when_stale="put_back"),
    )


def _blind_rooms(home: Home) -> list[tuple[str, str]]:
    rooms = {d.room_id for d in home.devices if d.kind == "blind_motor" and d.is_in_service}
    return [(r.id, r.name) for r in home.rooms if r.id in rooms]


def _blinds(home: Home, room_id: str) -> Rule:
    blinds = tuple(d.id for d in home.devices if d.kind == "blind_motor" and d.room_id == room_id and d.is_in_service)
    hot = Compared(of=Signal(quantity="room_temperature", subject_id=room_id), how="over", value=25.0, hysteresis=1.0)
    return _rule(
        f"{home.room(room_id).name} shaded",
        "rule",
        hot,
        [Blinds(target_ids=blinds, down=0.5), Blinds(target_ids=blinds, down=0.8, wait_s=900)],
        reading="is",
        for_s=900,
        only_while=((Hours(from_min=540, until_min=1260),),),
        put_back=PutBack(when=((replace(hot, how="under", value=24.0, hysteresis=0.0),),), for_s=1800, at_min=1290),
        intent="Shade before the room is hot, in two steps so that nobody sits in the dark at once.",
        limits=Limits(min_on_s=1800, min_off_s=1800, most_a_day=4),
    )


# People and machines


def _zones(home: Home) -> list[tuple[str, str]]:
    return [(zone.id, zone.name) for zone in home.zones]


def _idle_room(home: Home, zone_id: str) -> Rule:
    zone = home.zone_of_id(zone_id)
    signals = [Signal(quantity="is_in", subject_id=room_id) for room_id in zone.room_ids]
    empty = tuple((InState(of=signal, is_on=False),) for signal in signals)
    rule = _rule(
        f"{zone.name} empty",
        "rule",
        empty[0],
        [SetLevel(zone_ids=(zone_id,), level_id=_idle_id(home))],
        reading="is",
        for_s=1500,
        only_while=((Hours(from_min=420, until_min=1260),), (Fact(word="guests are here", is_true=False),)),
        put_back=PutBack(when=(tuple(InState(of=signal) for signal in signals),), for_s=120),
        intent="A room that nobody uses is not heated for anybody.",
        limits=Limits(when_stale="put_back"),
    )
    return replace(rule, watch=empty)


def _finished(home: Home, machine_id: str) -> Rule:
    machine = _told(home, machine_id, "finished")
    runs = MachineDoes(appliance_id=machine_id, does="runs")
    return _rule(
        f"{machine.name} finished",
        "rule",
        MachineDoes(appliance_id=machine_id, does="finished"),
        [_tell(home, f"{machine.name} has finished", repeat_s=1800, most=6)],
        put_back=PutBack(when=((ANSWERED, runs),), after_s=6 * 3600),
        intent="Tell again until somebody has emptied it.",
    )


def _by_bedtime(home: Home, machine_id: str) -> Rule:
    machine = _told(home, machine_id, "finished")
    return _rule(
        f"{machine.name} not run yet",
        "rule",
        AtTime(at_min=1290),
        [_tell(home, f"{machine.name} has not run today")],
        only_while=((RanToday(appliance_id=machine_id, counts="started", has=False),),),
        intent="Asked while it can still be started.",
    )


def _told(home: Home, machine_id: str, tells: str) -> Appliance:
    machine = home.appliance(machine_id)
    if not machine.settings:
        raise HomeError(f"nothing tells yet when {machine.name} has {tells}; tune that on the page of its signature")
    return machine


CUTTABLE = ("washer", "condenser_dryer", "heat_pump_dryer", "dishwasher", "kettle", "other")


def _cuttable(home: Home) -> list[tuple[str, str]]:
    """Return machines whose plug may be cut: nothing that must stay on."""
    return [(m.id, m.name) for m in home.appliances if m.kind in CUTTABLE]


def _cut(home: Home, machine_id: str, *, leaves: bool) -> Rule:
    machine = _told(home, machine_id, "finished")
    idle = MachineDoes(appliance_id=machine_id, does="idle")
    night = ((Hours(from_min=1380, until_min=360),),)
    step: Step = _tell(home, f"{machine.name} stands by") if leaves else Switch(target_ids=(machine_id,), is_on=False)
    return _rule(
        f"{machine.name} standby",
        "rule",
        idle,
        [step],
        reading="is",
        for_s=1800,
        only_while=night,
        put_back=PutBack(at_min=360),
        intent="Nothing should draw power at night that nobody uses.",
        limits=Limits(most_a_day=2),
    )


def _fillable(home: Home) -> list[tuple[str, str]]:
    """Return valves, relays and pumps that drive no heater."""
    kinds = ("water_valve", "relay", "pump_switch")
    return [(d.id, d.name) for d in home.devices if d.kind in kinds and d.is_in_service and d.drives_id is None]


def _fill(home: Home, device_id: str) -> Rule:
    device = home.device(device_id)
    buttons = [d.id for d in home.devices if d.kind == "wall_switch" and d.is_in_service]
    start = Happens(event="button", subject_id=buttons[0]) if buttons else Happens(event="statement", word="Fill now")
    return _rule(
        f"{device.name} for a quarter of an hour",
        "rule",
        start,
        [TimedRun(target_ids=(device_id,), for_s=900)],
        intent="It stops by itself, whatever happens to the rest.",
        limits=Limits(most_a_day=3, cool_off_s=1800),
    )


LEAK_CAUTION = (
    "Water that is shut off can leave a heating system or a sprinkler without supply: have the valve's place checked by "
    "a plumber, and test it. A leak rule does not replace a float switch."
)
FROST_CAUTION = "Heat from a rule fails with the power: drain what must not freeze, or have trace heating fitted by a licensed person."
MOVING_CAUTION = (
    "Moving blinds can trap and fall: the motor's own stop must work, and doors never move by a rule unseen."
)
HEATER_CAUTION = (
    "Unattended heating appliances can start a fire: only those that their maker allows to be switched from afar."
)
ALARM_CAUTION = (
    "Smoke, gas and carbon monoxide alarms stay with their own certified devices and never depend on these rules."
)


def _one(
    make: Callable[[Home, str], Rule], name: str = "as written", for_it: str = "", against_it: str = ""
) -> tuple[School, ...]:
    return (School(key="usual", name=name, for_it=for_it, against_it=against_it, make=make),)


STARTERS: tuple[Starter, ...] = (
    Starter(
        key="leak",
        name="Leak",
        what="Water at a sensor: tell again and again, and shut the right thing.",
        needs="a leak sensor",
        places=_of_kinds("leak_sensor"),
        caution=f"{LEAK_CAUTION} {ALARM_CAUTION}",
        schools=(
            School(
                key="tell",
                name="Tell only",
                for_it="nothing is cut by a drop from a mop",
                against_it="water runs until somebody comes",
                make=lambda home, place: _leak(home, place, [], ""),
            ),
            School(
                key="valve",
                name="Shut the water",
                for_it="for a tap, a washer, a pipe: it ends while nobody is there",
                against_it="a false alarm leaves the house dry",
                make=_leak_valve,
            ),
            School(
                key="cooling",
                name="Cut the cooling unit",
                for_it="under an indoor unit it is its own water; shutting the tap would not help",
                against_it="it drips on from its tray for some minutes",
                make=_leak_cooling,
            ),
        ),
    ),
    Starter(
        key="frost",
        name="Pipe frost",
        what="The cold at a pipe: tell early, heat before it freezes.",
        needs="a pipe or pump in the survey",
        places=_frost_places,
        caution=FROST_CAUTION,
        schools=(
            School(
                key="tell",
                name="Tell only",
                for_it="at 4.5 °C there is time to come",
                against_it="somebody has to come",
                make=lambda home, place: _frost(home, place, acts=False),
            ),
            School(
                key="heat",
                name="Heat and tell",
                for_it="at 3 °C the zone is heated by a safety rule",
                against_it="costs heat; fails with the power",
                make=lambda home, place: _frost(home, place, acts=True),
            ),
        ),
    ),
    Starter(
        key="opening",
        name="Opening",
        what="A window or door stands open: Idle, and put back when all are shut.",
        needs="a contact in a room of a zone",
        places=_contacts,
        schools=_one(
            _opening,
            "By contact",
            "sure within seconds, also in mild weather",
            "a contact for every opening, with a battery",
        ),
    ),
    Starter(
        key="drop",
        name="Opening by the fall of temperature",
        what="The room falls faster than it ever does with windows shut.",
        needs="a temperature sensor in a room of a zone",
        places=_rooms_with_sensor,
        schools=_one(
            _drop,
            "By fall",
            "needs nothing more than the sensor",
            "late, blind in mild weather, and fooled by the sun leaving or an oven",
        ),
    ),
    Starter(
        key="damp",
        name="Damp air",
        what="Steam from a bath or a kitchen: a fan or dryer runs, with minimum times and an end.",
        needs="a relay or plug in a heated room, or a dryer, that could run",
        places=_damp_places,
        schools=(
            School(
                key="threshold",
                name="By threshold",
                for_it="one sensor; the same limit all year",
                against_it="in summer the air outside may be damper: it runs for nothing",
                make=_humid,
            ),
            School(
                key="difference",
                name="By difference",
                for_it="runs only while air from outside dries",
                against_it="needs temperature and humidity outside too",
                make=_damper_than_outside,
            ),
        ),
    ),
    Starter(
        key="split",
        name="Split unit with context",
        what="Cool only while somebody is in and the windows are shut.",
        needs="a split unit",
        places=_splits,
        schools=_one(_split),
    ),
    Starter(
        key="blinds",
        name="Blinds by heat",
        what="Half down, then further, before the room is hot; up in the evening.",
        needs="a blind motor",
        places=_blind_rooms,
        caution=MOVING_CAUTION,
        schools=_one(_blinds),
    ),
    Starter(
        key="idle",
        name="Idle room",
        what="Nobody in for so long: Idle, put back when somebody is in.",
        needs="a zone",
        places=_zones,
        schools=_one(_idle_room),
    ),
    Starter(
        key="finished",
        name="Machine finished",
        what="Told when it has finished, and again until somebody answers.",
        needs="a machine on a metering plug",
        places=_machines,
        schools=_one(_finished),
    ),
    Starter(
        key="bedtime",
        name="Has it run by bedtime",
        what="At half past nine: tell if the machine has not run today.",
        needs="a machine on a metering plug",
        places=_machines,
        schools=_one(_by_bedtime),
    ),
    Starter(
        key="standby",
        name="Standby cut",
        what="At night, half an hour after it stopped.",
        needs="a machine that may be cut",
        places=_cuttable,
        caution=HEATER_CAUTION,
        schools=(
            School(
                key="cut",
                name="Cut",
                for_it="draws nothing until six",
                against_it="loses its clock, and may have to be started by hand",
                make=lambda home, place: _cut(home, place, leaves=False),
            ),
            School(
                key="leave",
                name="Leave and tell",
                for_it="nothing is lost",
                against_it="the draw goes on",
                make=lambda home, place: _cut(home, place, leaves=True),
            ),
        ),
    ),
    Starter(
        key="fill",
        name="Timed fill with a hard stop",
        what="A button runs it for a quarter of an hour; the stop is sent along with the start.",
        needs="a valve, relay or pump switch",
        places=_fillable,
        caution=f"{HEATER_CAUTION} Water that runs unseen needs an overflow.",
        schools=_one(_fill),
    ),
)
