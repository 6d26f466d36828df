"""Commands on water: points, what shuts and what senses them, tests of the alarm path, how soon people act."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.floor_plan_edits import with_device
from warmeter.core.edits.home_edits import free_name, swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import SafetyChain
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Spot, Text, Unit, Word
from warmeter.core.home.water import SelfTest, SensorReach, WaterPoint, WaterPointKind, WaterPractice
from warmeter.core.water.usual_points import USUAL_POINT

POINT_FIELDS = ("name", "kind", "room_id", "is_warm", "flow_l_min", "leaks_year")
PRACTICE_FIELDS = (
    "home_min",
    "away_min",
    "seen_h",
    "still_flowing_s",
    "flow_min",
    "flow_least_l_min",
    "pressure_least_l_min",
    "test_every_days",
    "shut_limit_s",
)
PointM = Annotated[float, Ge(-100), Le(100), Unit("m")]
WetS = Annotated[float, Ge(0), Le(1_000_000), Unit("s")]
TestS = Annotated[float, Ge(0), Le(100_000), Unit("s")]


def _with_point(home: Home, point: WaterPoint, summary: str) -> Edit:
    return Edit(replace(home, water_points=swapped(home.water_points, point)), summary, point.id)


def with_water_point(home: Home, kind: WaterPointKind, room_id: str, at: Spot | None = None, name: str = "") -> Home:
    """Return a home with a point of water; the valve that shuts the last point last shuts it too."""
    if room_id:
        home.room(room_id)
    usual = USUAL_POINT[kind]
    valves = home.water_points[-1].valve_ids[-1:] if home.water_points and usual.can_be_shut else ()
    point = WaterPoint(
        id=new_id(),
        name=name or free_name({p.name for p in home.water_points}, usual.word.capitalize()),
        kind=kind,
        room_id=room_id or None,
        at=at,
        valve_ids=valves,
    )
    return replace(home, water_points=(*home.water_points, point))


@dataclass(frozen=True, slots=True, kw_only=True)
class AddWaterPoint:
    """Write down a point where water can come out; the valves that shut the last point shut it too."""

    kind: WaterPointKind
    room_id: Word = ""
    name: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = with_water_point(home, self.kind, self.room_id, name=self.name)
        point = changed.water_points[-1]
        return Edit(changed, f"{point.name} added", point.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeWaterPoint:
    """Type a point's fields, or its place in its room [m]."""

    id: Id
    values: Annotated[Values, FieldsOf(WaterPoint, POINT_FIELDS)]
    x_m: PointM | None = None
    y_m: PointM | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        point, values = home.water_point(self.id), dict(self.values)
        if "room_id" in values:
            values["room_id"] = values["room_id"] or None
            if values["room_id"] != point.room_id:
                values["at"] = None
        if self.x_m is not None and self.y_m is not None:
            values["at"] = Spot(x_m=self.x_m, y_m=self.y_m, z_m=0.0)
        changed = replace(point, **values)
        return _with_point(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ShutPoint:
    """Say that a valve shuts a point, behind those that do already, or take it out; ``new`` writes a valve down."""

    id: Id
    valve_id: Word = ""
    out: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        point, valve_id = home.water_point(self.id), self.valve_id
        if valve_id == "new":
            home = with_device(home, "water_valve", point.room_id)
            valve_id = home.devices[-1].id
        valve = home.device(valve_id)
        if valve.kind != "water_valve":
            raise HomeError(f"{valve.name} is no valve of water")
        others = tuple(key for key in point.valve_ids if key != valve_id)
        point = replace(point, valve_ids=others if self.out else (*others, valve_id))
        how = "no longer shuts" if self.out else "shuts"
        return _with_point(home, point, f"{valve.name} {how} {point.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReachSensor:
    """Say that a point's water comes to a leak sensor, and after how long, or take it out; ``new`` writes one down.

    A new sensor joins the alarm path of the point's valves, or begins one.
    """

    id: Id
    device_id: Word = ""
    wet_s: WetS | None = None
    out: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        point, device_id = home.water_point(self.id), self.device_id
        if device_id == "new":
            home = with_device(home, "leak_sensor", point.room_id)
            device_id = home.devices[-1].id
            home = _in_path(home, device_id, point)
        sensor = home.device(device_id)
        if sensor.kind != "leak_sensor":
            raise HomeError(f"{sensor.name} is no leak sensor")
        others = tuple(reach for reach in point.reaches if reach.device_id != device_id)
        own = () if self.out else (SensorReach(device_id=device_id, wet_s=self.wet_s),)
        how = "is no longer reached by" if self.out else "is reached by"
        return _with_point(home, replace(point, reaches=(*others, *own)), f"{sensor.name} {how} {point.name}")


def _in_path(home: Home, sensor_id: str, point: WaterPoint) -> Home:
    """Return a home in which a new sensor tells the valves of a point: in their alarm path, or in one of its own."""
    chain = next((c for c in home.safety_chains if c.kind == "leak" and set(point.valve_ids) & set(c.device_ids)), None)
    if chain is not None:
        joined = replace(chain, device_ids=(sensor_id, *chain.device_ids))
        return replace(home, safety_chains=swapped(home.safety_chains, joined))
    own = SafetyChain(
        id=new_id(), name=f"Water, {point.name}"[:80], kind="leak", device_ids=(sensor_id, *point.valve_ids)
    )
    return replace(home, safety_chains=(*home.safety_chains, own))


def _chain(home: Home, chain_id: str) -> SafetyChain:
    chain = next((c for c in home.safety_chains if c.id == chain_id), None)
    if chain is None:
        raise HomeError("this alarm path is not there any more")
    return chain


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteSelfTest:
    """Write down a test of an alarm path: seconds from wet to told, and from told to shut; empty where it failed."""

    chain_id: Id
    on: date
    told_s: TestS | None = None
    shut_s: TestS | None = None
    failed: Text = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with the test; another of the same date is replaced."""
        chain = _chain(home, self.chain_id)
        test = SelfTest(on=self.on, told_s=self.told_s, shut_s=self.shut_s, failed=self.failed)
        others = tuple(t for t in chain.tests if t.on != self.on)
        tests = tuple(sorted((*others, test), key=lambda each: each.on))
        changed = replace(chain, tests=tests)
        return Edit(replace(home, safety_chains=swapped(home.safety_chains, changed)), f"{chain.name} tested")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveSelfTest:
    """Remove a test of an alarm path."""

    chain_id: Id
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        chain = _chain(home, self.chain_id)
        changed = replace(chain, tests=tuple(t for t in chain.tests if t.on != self.on))
        chains = swapped(home.safety_chains, changed)
        return Edit(replace(home, safety_chains=chains), f"A test of {chain.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeWaterPractice:
    """Type how soon people act on water, and what the ways of noticing it are set to."""

    values: Annotated[Values, FieldsOf(WaterPractice, PRACTICE_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = replace(home.water_practice, **self.values)
        return Edit(replace(home, water_practice=changed), "How soon water is acted on")
