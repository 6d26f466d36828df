"""Faults of circuits, ducts and water planted into clean homes: each in a sound circuit or a sound point of water put in for it."""

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import Any

from warmeter.core.home.checklists import Checklist, DoneStep
from warmeter.core.home.circuits import Circuit, ElectricalPractice, FloorCover, HeatingMat, OhmReading, TripTest
from warmeter.core.home.devices import ControlPath, Device, SafetyChain, SettingReading, ValveExercise
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem, HeatStage, RoomDifference, Vent, VentRound
from warmeter.core.home.panels import PanelFunction
from warmeter.core.home.people import Occupant, Witness, WitnessKind
from warmeter.core.home.plant import Heater
from warmeter.core.home.raw_readings import RawChain
from warmeter.core.home.water import SelfTest, SensorReach, WaterPoint
from warmeter.simulators.planted import Planted

BEFORE, COVERED, LATER = date(2025, 3, 1), date(2025, 3, 4), date(2026, 1, 14)
CIRCUIT, MAT, POINT, PATH, DUCTS = "planted-circuit", "planted-mat", "planted-point", "planted-path", "planted-ducts"


def sound_mat(*ohms: float, cover: FloorCover = "tile", insulation_mohm: float = 500.0) -> HeatingMat:
    """Return a mat of 600 W on 4 m², 88.2 Ω at 230 V, read before laying and after covering."""
    before, covered = ohms or (87.6, 87.9)
    return HeatingMat(
        id=MAT,
        name="Planted mat",
        power_w=600.0,
        area_m2=4.0,
        cover=cover,
        readings=(
            OhmReading(on=BEFORE, stage="before", ohm=before, insulation_mohm=500.0),
            OhmReading(on=COVERED, stage="covered", ohm=covered, insulation_mohm=insulation_mohm),
        ),
    )


SOUND = Circuit(
    id=CIRCUIT,
    name="Planted circuit",
    control_a=10.0,
    mats=(sound_mat(),),
    trip_tests=(TripTest(on=LATER, trip_ms=24.0),),
    probe_ohm=12_000.0,
    spare_probe_ohm=12_300.0,
)


def _with_circuit(home: Home, circuit: Circuit) -> Planted:
    return Planted(replace(home, circuits=(*home.circuits, circuit)), CIRCUIT)


def _with_mat(home: Home, mat: HeatingMat) -> Planted:
    return _with_circuit(home, replace(SOUND, mats=(mat,)))


def out_of_order(home: Home) -> Planted:
    """Date the reading before laying after the one of the covered mat."""
    mat = sound_mat()
    first = replace(mat.readings[0], on=LATER)
    # The newest reading stays sound, so only the dates are off.
    return _with_mat(home, replace(mat, readings=(first, mat.readings[1])))


def never_covered(home: Home) -> Planted:
    """Leave out the reading after covering."""
    mat = sound_mat()
    return _with_mat(home, replace(mat, readings=mat.readings[:1]))


def limit_missing(home: Home) -> Planted:
    """Lay laminate over a warm floor whose surface is not limited for it."""
    room = next(r for r in home.rooms if r.condition == "heated")
    floor = Heater(
        id="planted-floor",
        room_id=room.id,
        name="Planted floor",
        kind="warm_floor",
        source_id=home.sources[0].id,
        rated_heat_w=100.0,
        surface_limit_c=28.0,
    )
    bare = tuple(h for h in home.heaters if h.room_id != room.id or h.kind != "warm_floor")
    grown = replace(home, heaters=(*bare, floor)) if len(bare) == len(home.heaters) else home
    mat = replace(sound_mat(cover="laminate"), room_id=room.id, area_m2=None)
    return _with_mat(grown, mat)


def hung_twice(home: Home) -> Planted:
    """Hang the weakest heater on two circuits that both carry it."""
    heater = min(home.heaters, key=lambda h: h.rated_heat_w)
    wide = {"rating_a": 400.0, "heater_ids": (heater.id,)}
    one, two = (Circuit(id=key, name=key, **wide) for key in (CIRCUIT, "planted-second"))  # type: ignore[arg-type]
    return Planted(replace(home, circuits=(one, two)), CIRCUIT)


def board_full(home: Home) -> Planted:
    """Give the board fewer modules than its circuits take."""
    found = _with_circuit(home, replace(SOUND, board_modules=13))
    grown = replace(found.home, electrical_practice=ElectricalPractice(board_modules=12))
    return Planted(grown, grown.circuits[0].id)


def _watered(home: Home, point: WaterPoint, *tests: SelfTest, tells_valve: bool = True) -> Home:
    """Return a home with a point, a leak sensor on mains and a valve of its own in one alarm path."""
    sensor = Device(
        id="planted-sensor", name="Planted sensor", kind="leak_sensor", power="mains", works_without_controller=True
    )
    valve = replace(sensor, id="planted-valve", name="Planted valve", kind="water_valve")
    ids = (sensor.id, valve.id) if tells_valve else (sensor.id,)
    path = SafetyChain(id=PATH, name="Planted path", kind="leak", device_ids=ids, tests=tests)
    return replace(
        home,
        devices=(*home.devices, sensor, valve),
        safety_chains=(*home.safety_chains, path),
        water_points=(*home.water_points, point),
    )


SOUND_POINT = WaterPoint(
    id=POINT,
    name="Planted point",
    kind="tap",
    valve_ids=("planted-valve",),
    reaches=(SensorReach(device_id="planted-sensor", wet_s=20.0),),
)


def _months(first_s: float, step_s: float) -> tuple[SelfTest, ...]:
    return tuple(SelfTest(on=date(2026, 1 + k, 1), told_s=2.0, shut_s=first_s + k * step_s) for k in range(6))


def _ducted(home: Home, **more: Any) -> Planted:
    """Return a home with ducts of two vents in heated rooms, sound but for what is said."""
    rooms = [room.id for room in home.rooms if room.condition == "heated"]
    vents = tuple(
        Vent(id=f"planted-vent-{k}", name=f"Planted vent {k}", room_id=key) for k, key in enumerate(rooms[:2])
    )
    values: dict[str, Any] = {
        "static_pa": 100.0,
        "flow_m3_h": 800.0,
        "thermostat_room_id": rooms[0],
        "vents": vents,
        **more,
    }
    system = DuctSystem(
        id=DUCTS, name="Planted ducts", source_id=home.sources[0].id, stages=(HeatStage(heat_w=9000.0),), **values
    )
    return Planted(replace(home, ducts=(*home.ducts, system)), DUCTS)


def much_shut(home: Home) -> Planted:
    """Shut every vent by six of twenty notches."""
    found = _ducted(home)
    system = found.home.ducts[-1]
    shut = replace(system, vents=tuple(replace(vent, notch=6) for vent in system.vents))
    return replace(found, home=replace(found.home, ducts=(*found.home.ducts[:-1], shut)))


def lead_without_vent(home: Home) -> Planted:
    """Put the thermostat into the last room, and both vents into others."""
    rooms = [room.id for room in home.rooms if room.condition == "heated"]
    return _ducted(home, thermostat_room_id=rooms[-1])


def _chained(home: Home, **more: Any) -> Planted:
    """Return a home with a sensor whose log has counts: 511.5 of 1023 at 25 °C through 10 kΩ, but for what is said."""
    chain = RawChain(**({"checked_raw": 511.5, "checked_c": 25.0} | more))
    sensor = Device(id="planted-raw", name="Planted sensor", kind="air_sensor", power="mains", raw=chain)
    return Planted(replace(home, devices=(*home.devices, sensor)), sensor.id)


def _panelled(home: Home, **parts: Any) -> Planted:
    """Return a home with a panel whose lamp is seen, with some parts of it as planted."""
    sensor = Device(id="planted-eye", name="Planted lamp sensor", kind="lamp_sensor", quantities=("is_lit",))
    presser = Device(
        id="planted-presser",
        name="Planted presser",
        kind="relay",
        witness_id=sensor.id,
        commands=(ControlPath(way="network", by="a controller", state="wanted"),),
    )
    sound = PanelFunction(
        id="planted-lamp", name="SPA", lamp_sensor_id=sensor.id, presser_id=presser.id, blink_s=1.0, watch_s=3.0
    )
    panel = Device(id="planted-panel", name="Planted panel", kind="controller", panel=(replace(sound, **parts),))
    return Planted(replace(home, devices=(*home.devices, sensor, presser, panel)), panel.id)


def _with_valve(home: Home, **parts: Any) -> Planted:
    """Return a home with a water valve whose settings were read, with some parts of it as planted."""
    room = next((r.id for r in home.rooms if r.use == "sleeping"), home.rooms[0].id)
    rooms = tuple(replace(r, use="sleeping") if r.id == room else r for r in home.rooms)
    reads = (SettingReading(setting="Frost limit", value="5", where="its display"),)
    valve = Device(id="planted-valve", name="Planted valve", kind="wall_switch", room_id=room, settings_read=reads)
    return Planted(replace(home, rooms=rooms, devices=(*home.devices, replace(valve, **parts))), valve.id)


def _peopled(home: Home, *kinds: WitnessKind) -> Planted:
    """Return a home with somebody who has witnesses of some kinds."""
    telephone = Device(id="planted-telephone", name="Planted telephone", kind="telephone", power="battery")
    witnesses = tuple(
        Witness(id=f"planted-witness-{k}", kind=kind, device_ids=(telephone.id,) if kind == "telephone" else ())
        for k, kind in enumerate(kinds)
    )
    person = Occupant(id="planted-person", name="Planted person", witnesses=witnesses)
    return Planted(replace(home, devices=(*home.devices, telephone), people=(*home.people, person)), person.id)


WIRING_PLANTS: dict[str, Callable[[Home], Planted]] = {
    "circuit overloaded": lambda home: _with_circuit(home, replace(SOUND, other_w=2600.0)),
    "control overloaded": lambda home: _with_circuit(home, replace(SOUND, control_a=2.0)),
    "ohms off": lambda home: _with_mat(home, sound_mat(87.6, 103.0)),
    "ohms changed": lambda home: _with_mat(home, sound_mat(87.6, 94.0)),
    "insulation low": lambda home: _with_mat(home, sound_mat(insulation_mohm=0.4)),
    "mat not measured": never_covered,
    "dates out of order": out_of_order,
    "no fault-current device": lambda home: _with_circuit(home, replace(SOUND, residual_ma=None)),
    "trips too slowly": lambda home: _with_circuit(
        home, replace(SOUND, trip_tests=(TripTest(on=LATER, trip_ms=310.0),))
    ),
    "too dense under its cover": lambda home: _with_mat(home, sound_mat(cover="timber")),
    "cover without its limit": limit_missing,
    "probes differ": lambda home: _with_circuit(home, replace(SOUND, spare_probe_ohm=13_000.0)),
    "on two circuits": hung_twice,
    "board is full": board_full,
    "nothing senses it": lambda home: Planted(_watered(home, replace(SOUND_POINT, reaches=())), POINT),
    "sensor tells no valve": lambda home: Planted(_watered(home, SOUND_POINT, tells_valve=False), POINT),
    "shut-off cuts what must run": lambda home: Planted(_watered(home, replace(SOUND_POINT, kind="sprinkler")), POINT),
    "last self-test failed": lambda home: Planted(_watered(home, SOUND_POINT, SelfTest(on=LATER, told_s=2.0)), PATH),
    "valve grows slow": lambda home: Planted(_watered(home, SOUND_POINT, *_months(20.0, 1.0)), PATH),
    "raw reading wrong": lambda home: _chained(home, checked_raw=330.0, fixed_side="ground"),
    "range out of reach": lambda home: _chained(
        home, reference_v=1.1, checked_raw=None, checked_c=None, fixed_side="supply"
    ),
    "lamp watched too briefly": lambda home: _panelled(home, watch_s=0.8),
    "button pressed unseen": lambda home: _panelled(home, lamp_sensor_id=None),
    "nobody tells of them": lambda home: _peopled(home),
    "can never be out": lambda home: _peopled(home, "motion", "machine"),
    "one witness alone": lambda home: _peopled(home, "telephone"),
    "setting read twice": lambda home: _with_valve(
        home,
        settings_read=(
            SettingReading(setting="Frost limit", value="5", where="its display"),
            SettingReading(setting="frost limit", value="7", where="the network"),
        ),
    ),
    "exercise at night": lambda home: _with_valve(home, exercise=ValveExercise(weekday=5, at_min=180)),
    "pressure too high": lambda home: _ducted(home, static_pa=130.0),
    "too little air": lambda home: _ducted(home, flow_least_m3_h=900.0),
    "too many vents shut": much_shut,
    "thermostat without a vent": lead_without_vent,
}


def sound_wiring(home: Home) -> Home:
    """Return a home with a sound circuit and a sound point of water, tested without growth."""
    grown = replace(home, circuits=(*home.circuits, SOUND))
    return _watered(grown, SOUND_POINT, *_months(8.0, 0.0))


def orchard_as_found(home: Home) -> Home:
    """Return the house on ducts with what the walk found: a failing mat, a slow valve, a bare heater, uneven rooms."""
    floor = home.circuit("or-c-floor")
    failing = replace(
        floor.mats[1], readings=(*floor.mats[1].readings, OhmReading(on=date(2026, 1, 18), stage="later", ohm=55.9))
    )
    path = home.safety_chains[0]
    tests = tuple(replace(test, shut_s=6.0 + 0.4 * place) for place, test in enumerate(path.tests))
    system = home.ducts[0]
    off = {
        "living": 0.2,
        "hall": 0.1,
        "kitchen": 0.7,
        "study": 1.3,
        "front": -1.6,
        "back": -0.8,
        "nursery": 0.6,
        "bath": -0.5,
    }
    read = VentRound(
        on=date(2026, 1, 20),
        differences=tuple(RoomDifference(room_id=f"or-{key}", diff_k=value) for key, value in off.items()),
        notches=tuple((vent.id, vent.notch) for vent in system.vents),
    )
    return replace(
        home,
        circuits=tuple(replace(c, mats=(c.mats[0], failing)) if c.id == floor.id else c for c in home.circuits),
        safety_chains=(replace(path, tests=tests), *home.safety_chains[1:]),
        water_points=tuple(replace(p, reaches=()) if p.kind == "water_heater" else p for p in home.water_points),
        ducts=(replace(system, rounds=(read,)),),
        checklists=(
            *home.checklists,
            Checklist(
                id="or-check-floor",
                kind="floor_circuit",
                about_id=floor.id,
                done=tuple(
                    DoneStep(step=step, on=BEFORE, by="M. Vlk") for step in ("dead", "ohm_before", "probe", "ohm_laid")
                ),
            ),
        ),
    )
