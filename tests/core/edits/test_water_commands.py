"""Commands on water, circuits and checklists: what they write, what they refuse, what goes with what is removed."""

import unittest
from datetime import date

from tests.drawn import drawn_home
from tests.homes import done, small_home
from warmeter.core.building.replacing import replaced
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.checklist_commands import BeginChecklist, DoStep, RemoveChecklist, SignChecklist
from warmeter.core.edits.circuit_commands import (
    AddCircuit,
    AddMat,
    ChangeCircuit,
    ChangeMat,
    ChangePractice,
    HangOnCircuit,
    ReadMat,
    RemoveCircuit,
    RemoveMat,
    RemoveReading,
    RemoveTripTest,
    WriteTripTest,
)
from warmeter.core.edits.device_commands import ChangeSafetyChain
from warmeter.core.edits.item_commands import ChangeItem, MoveItem, PlaceItem, RemovePart
from warmeter.core.edits.room_commands import JoinRooms, RemoveRoom
from warmeter.core.edits.water_commands import (
    AddWaterPoint,
    ChangeWaterPoint,
    ChangeWaterPractice,
    ReachSensor,
    RemoveSelfTest,
    ShutPoint,
    WriteSelfTest,
)
from warmeter.core.errors import HomeError
from warmeter.core.home.checklist_steps import STEPS
from warmeter.core.home.document import Home

ON = date(2026, 1, 14)


def piped() -> Home:
    """Return the drawn home with a tap in the den, its valve and its leak sensor in one alarm path, tested once."""
    home = done(drawn_home(), AddWaterPoint(kind="tap", room_id="den"))
    point = home.water_points[0].id
    home = done(home, ShutPoint(id=point, valve_id="new"), ReachSensor(id=point, device_id="new", wet_s=20.0))
    return done(home, WriteSelfTest(chain_id=home.safety_chains[-1].id, on=ON, told_s=2.0, shut_s=9.0))


def floored() -> Home:
    """Return a home with a circuit, a mat on it and a reading."""
    home = done(small_home(), AddCircuit(name="Floor", rating_a=16.0))
    home = done(home, AddMat(id=home.circuits[0].id, power_w=600.0, room_id="study"))
    circuit, mat = home.circuits[0].id, home.circuits[0].mats[0].id
    return done(home, ReadMat(id=circuit, mat_id=mat, on=ON, stage="before", ohm=88.0, insulation_mohm=500.0))


class Water(unittest.TestCase):
    def test_a_new_sensor_joins_the_path_of_the_points_valves(self) -> None:
        home = piped()
        point, chain = home.water_points[0], home.safety_chains[-1]
        self.assertEqual(chain.device_ids, (point.reaches[0].device_id, point.valve_ids[0]))
        second = done(home, ReachSensor(id=point.id, device_id="new"))
        self.assertEqual(len(second.safety_chains), len(home.safety_chains))
        self.assertEqual(len(second.safety_chains[-1].device_ids), 3)
        self.assertEqual(second.safety_chains[-1].tests, chain.tests)
        next_point = done(second, AddWaterPoint(kind="tub")).water_points[-1]
        self.assertEqual(next_point.valve_ids, point.valve_ids, "the main valve shuts the next point too")
        self.assertEqual(done(second, AddWaterPoint(kind="sump")).water_points[-1].valve_ids, ())

    def test_typed_moved_taken_out_and_removed(self) -> None:
        home = piped()
        point, chain = home.water_points[0], home.safety_chains[-1]
        home = done(
            home,
            ChangeWaterPoint(id=point.id, values={"flow_l_min": 18.0, "name": "Hose"}, x_m=1.0, y_m=2.0),
            ChangeWaterPractice(values={"home_min": 3.0}),
        )
        moved = done(home, MoveItem(id=point.id, x_m=5.0, y_m=1.0, storey_id="ground")).water_points[0]
        self.assertEqual((moved.room_id, moved.at and moved.at.x_m, moved.flow_l_min), ("study", 1.0, 18.0))
        renamed = done(home, ChangeItem(id=point.id, name="Hose 2")).water_points[0]
        self.assertEqual(renamed.name, "Hose 2")
        elsewhere = done(home, ChangeWaterPoint(id=point.id, values={"room_id": "study"})).water_points[0]
        self.assertIsNone(elsewhere.at)
        bare = done(
            home,
            ShutPoint(id=point.id, valve_id=point.valve_ids[0], out=True),
            ReachSensor(id=point.id, device_id=point.reaches[0].device_id, out=True),
            RemoveSelfTest(chain_id=chain.id, on=ON),
        )
        self.assertEqual((bare.water_points[0].valve_ids, bare.water_points[0].reaches), ((), ()))
        self.assertEqual(bare.safety_chains[-1].tests, ())
        self.assertEqual(done(home, RemovePart(id=point.id)).water_points, ())
        placed = done(home, PlaceItem(what="water:shower", x_m=5.0, y_m=1.0, storey_id="ground")).water_points[-1]
        self.assertEqual((placed.kind, placed.room_id), ("shower", "study"))

    def test_what_names_it_goes_with_it(self) -> None:
        home = piped()
        point = home.water_points[0]
        valve, sensor = point.valve_ids[0], point.reaches[0].device_id
        self.assertEqual(done(home, RemovePart(id=valve)).water_points[0].valve_ids, ())
        self.assertEqual(done(home, RemovePart(id=sensor)).water_points[0].reaches, ())
        self.assertIsNone(done(home, RemoveRoom(room_id="den")).water_points[0].room_id)
        joined = done(home, JoinRooms(room_id="study", other_id="den"))
        self.assertEqual(joined.water_points[0].room_id, "study")
        other = floor_plan_edits.with_device(home, "leak_sensor", "den")
        swapped = replaced(other, sensor, other.devices[-1].id, ON)
        self.assertEqual(swapped.water_points[0].reaches[0].device_id, other.devices[-1].id)
        self.assertEqual(swapped.water_points[0].reaches[0].wet_s, 20.0)

    def test_odd_ones_are_refused(self) -> None:
        home = piped()
        point, sensor = home.water_points[0].id, home.devices[0].id
        for command in (
            ShutPoint(id=point, valve_id=sensor),
            ReachSensor(id=point, device_id=sensor),
            ShutPoint(id=point, valve_id="none"),
            AddWaterPoint(kind="tap", room_id="nowhere"),
            WriteSelfTest(chain_id="none", on=ON),
            ChangeWaterPoint(id="none", values={}),
        ):
            with self.subTest(command), self.assertRaises(HomeError):
                done(home, command)


class Circuits(unittest.TestCase):
    def test_typed_hung_read_and_tested(self) -> None:
        home = floored()
        circuit = home.circuits[0]
        mat = circuit.mats[0].id
        home = done(
            home,
            ChangeCircuit(id=circuit.id, values={"rating_a": 10.0, "curve": "B"}),
            ChangeMat(id=circuit.id, mat_id=mat, values={"cover": "timber", "room_id": ""}),
            HangOnCircuit(id=circuit.id, part_id="panel"),
            HangOnCircuit(id=circuit.id, part_id="washer"),
            ReadMat(id=circuit.id, mat_id=mat, on=ON, stage="before", ohm=89.0),
            WriteTripTest(id=circuit.id, on=ON, trip_ms=24.0),
            WriteTripTest(id=circuit.id, on=ON),
            ChangePractice(values={"continuous_factor": 1.0, "chosen_by": "M. Vlk"}),
        )
        own = home.circuits[0]
        self.assertEqual((own.heater_ids, own.appliance_ids, own.rating_a), (("panel",), ("washer",), 10.0))
        self.assertEqual([r.ohm for r in own.mats[0].readings], [89.0], "the same stage and date is read anew")
        self.assertEqual([t.trip_ms for t in own.trip_tests], [None])
        self.assertEqual((own.mats[0].room_id, home.electrical_practice.chosen_by), (None, "M. Vlk"))
        second = done(home, AddCircuit())
        self.assertEqual(second.circuits[1].name, "Circuit 1")
        moved = done(second, HangOnCircuit(id=second.circuits[1].id, part_id="panel"))
        self.assertEqual([c.heater_ids for c in moved.circuits], [(), ("panel",)], "it hangs on one at a time")
        self.assertEqual(done(moved, RemoveRoom(room_id="study")).circuits[1].heater_ids, ())
        bare = done(
            home,
            HangOnCircuit(id=own.id, part_id="panel", off=True),
            RemoveReading(id=own.id, mat_id=mat, on=ON, stage="before"),
            RemoveTripTest(id=own.id, on=ON),
            RemoveMat(id=own.id, mat_id=mat),
        ).circuits[0]
        self.assertEqual((bare.heater_ids, bare.trip_tests, bare.mats), ((), (), ()))
        self.assertEqual(done(home, RemoveCircuit(id=own.id)).circuits, ())

    def test_odd_ones_are_refused(self) -> None:
        home = floored()
        circuit = home.circuits[0].id
        for command in (
            HangOnCircuit(id=circuit, part_id="study"),
            ReadMat(id=circuit, mat_id="none", on=ON, stage="before", ohm=1.0),
            AddMat(id=circuit, power_w=100.0, room_id="nowhere"),
            ChangeCircuit(id="none", values={}),
        ):
            with self.subTest(command), self.assertRaises(HomeError):
                done(home, command)


class Checklists(unittest.TestCase):
    def test_begun_done_signed_and_taken_back(self) -> None:
        home = floored()
        circuit = home.circuits[0].id
        home = done(home, BeginChecklist(kind="floor_circuit", about_id=circuit))
        key = home.checklists[0].id
        with self.assertRaises(HomeError):
            done(home, SignChecklist(checklist_id=key, by="M. Vlk", on=ON))
        for step in STEPS["floor_circuit"]:
            home = done(home, DoStep(checklist_id=key, step=step.key, on=ON, by="M. Vlk"))
        home = done(home, SignChecklist(checklist_id=key, by="M. Vlk", on=ON))
        self.assertEqual(home.checklists[0].signed_by, "M. Vlk")
        back = done(home, DoStep(checklist_id=key, step="trip", undo=True)).checklists[0]
        self.assertEqual((back.signed_by, len(back.done)), ("", len(STEPS["floor_circuit"]) - 1))
        for command in (
            DoStep(checklist_id=key, step="else", on=ON, by="M. Vlk"),
            DoStep(checklist_id=key, step="trip", on=ON),
            DoStep(checklist_id="none", step="trip", on=ON, by="M. Vlk"),
            BeginChecklist(kind="leak_test", about_id="none"),
        ):
            with self.subTest(command), self.assertRaises(HomeError):
                done(home, command)
        self.assertEqual(done(home, RemoveChecklist(checklist_id=key)).checklists, ())
        self.assertEqual(done(home, RemoveCircuit(id=circuit)).checklists, (), "it goes with what it is about")

    def test_one_about_a_path_goes_with_the_path(self) -> None:
        home = piped()
        chain = home.safety_chains[-1].id
        home = done(home, BeginChecklist(kind="leak_test", about_id=chain))
        self.assertEqual(done(home, ChangeSafetyChain(id=chain, remove=True)).checklists, ())
