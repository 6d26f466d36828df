"""Commands on electric circuits: what hangs on them, mats and what was measured, trip tests, the local practice."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Gt, Le

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import free_name, swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.mentions import without_mentions
from warmeter.core.errors import HomeError
from warmeter.core.home.circuits import Circuit, ElectricalPractice, HeatingMat, OhmReading, OhmStage, TripTest
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Unit, Word, part_names

CIRCUIT_FIELDS = (
    "name",
    "volts_v",
    "phases",
    "power_factor",
    "rating_a",
    "curve",
    "residual_ma",
    "control_a",
    "board_modules",
    "other_w",
    "probe_ohm",
    "spare_probe_ohm",
    "probe_read_on",
)
MAT_FIELDS = ("name", "room_id", "power_w", "area_m2", "cover", "ohm_expected")
PRACTICE_FIELDS = (
    "continuous_factor",
    "chosen_by",
    "ohm_under_pct",
    "ohm_over_pct",
    "insulation_least_mohm",
    "trip_limit_ms",
    "trip_every_days",
    "board_modules",
    "relay_channels",
    "relay_channel_a",
)


def _with_circuit(home: Home, circuit: Circuit, summary: str) -> Edit:
    return Edit(replace(home, circuits=swapped(home.circuits, circuit)), summary, circuit.id)


def _mat(circuit: Circuit, mat_id: str) -> HeatingMat:
    mat = next((each for each in circuit.mats if each.id == mat_id), None)
    if mat is None:
        raise HomeError("this mat is not there any more")
    return mat


@dataclass(frozen=True, slots=True, kw_only=True)
class AddCircuit:
    """Write down a circuit of the board."""

    name: Word = ""
    rating_a: Annotated[float, Gt(0), Le(630), Unit("A")] = 16.0

    def edit(self, home: Home) -> Edit:
        """Return the home with it, at the volts of the circuits that are there."""
        volts = home.circuits[-1].volts_v if home.circuits else Circuit(id="usual", name="usual").volts_v
        name = self.name or free_name({c.name for c in home.circuits}, "Circuit 1")
        circuit = Circuit(id=new_id(), name=name, rating_a=self.rating_a, volts_v=volts)
        return Edit(replace(home, circuits=(*home.circuits, circuit)), f"{name} added", circuit.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeCircuit:
    """Type a circuit's fields."""

    id: Id
    values: Annotated[Values, FieldsOf(Circuit, CIRCUIT_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        changed = replace(home.circuit(self.id), **self.values)
        return _with_circuit(home, changed, f"{changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveCircuit:
    """Remove a circuit with its mats."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        circuit = home.circuit(self.id)
        home = without_mentions(home, {circuit.id, *(mat.id for mat in circuit.mats)})
        left = tuple(c for c in home.circuits if c.id != self.id)
        notes = tuple(n for n in home.notes if n.about_id != self.id)
        return Edit(replace(home, circuits=left, notes=notes), f"{circuit.name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class HangOnCircuit:
    """Hang a heater or a machine on a circuit, or take it off; it hangs on one circuit at a time."""

    id: Id
    part_id: Id
    off: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it hung there."""
        circuit = home.circuit(self.id)
        parts = part_names(home.heaters, home.appliances)
        if self.part_id not in parts:
            raise HomeError("choose a heater or an appliance from the list")
        bare = tuple(
            replace(
                c,
                heater_ids=tuple(key for key in c.heater_ids if key != self.part_id),
                appliance_ids=tuple(key for key in c.appliance_ids if key != self.part_id),
            )
            for c in home.circuits
        )
        changed = replace(home, circuits=bare)
        if self.off:
            return Edit(changed, f"{parts[self.part_id]} taken off {circuit.name}", self.id)
        own = changed.circuit(self.id)
        if self.part_id in {h.id for h in home.heaters}:
            own = replace(own, heater_ids=(*own.heater_ids, self.part_id))
        else:
            own = replace(own, appliance_ids=(*own.appliance_ids, self.part_id))
        return _with_circuit(changed, own, f"{parts[self.part_id]} hangs on {circuit.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddMat:
    """Write down a mat of a warm floor."""

    id: Id
    power_w: Annotated[float, Gt(0), Le(20_000), Unit("W")]
    name: Word = ""
    room_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it on the circuit."""
        circuit = home.circuit(self.id)
        if self.room_id:
            home.room(self.room_id)
        taken = {mat.name for c in home.circuits for mat in c.mats}
        name = self.name or free_name(taken, "Mat 1")
        mat = HeatingMat(id=new_id(), name=name, power_w=self.power_w, room_id=self.room_id or None)
        return _with_circuit(home, replace(circuit, mats=(*circuit.mats, mat)), f"{name} added to {circuit.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeMat:
    """Type a mat's fields."""

    id: Id
    mat_id: Id
    values: Annotated[Values, FieldsOf(HeatingMat, MAT_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        circuit = home.circuit(self.id)
        values = dict(self.values)
        if "room_id" in values:
            values["room_id"] = values["room_id"] or None
        mat = replace(_mat(circuit, self.mat_id), **values)
        return _with_circuit(home, replace(circuit, mats=swapped(circuit.mats, mat)), f"{mat.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveMat:
    """Remove a mat with its readings."""

    id: Id
    mat_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        mat = _mat(home.circuit(self.id), self.mat_id)
        home = without_mentions(home, {mat.id})
        circuit = home.circuit(self.id)
        left = replace(circuit, mats=tuple(m for m in circuit.mats if m.id != mat.id))
        return _with_circuit(home, left, f"{mat.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadMat:
    """Write down what a meter read on a mat; the same stage on the same date is read anew."""

    id: Id
    mat_id: Id
    on: date
    stage: OhmStage
    ohm: Annotated[float, Gt(0), Le(100_000), Unit("Ω")]
    insulation_mohm: Annotated[float, Ge(0), Le(100_000), Unit("MΩ")] | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the reading."""
        circuit = home.circuit(self.id)
        mat = _mat(circuit, self.mat_id)
        reading = OhmReading(on=self.on, stage=self.stage, ohm=self.ohm, insulation_mohm=self.insulation_mohm)
        others = tuple(r for r in mat.readings if (r.on, r.stage) != (self.on, self.stage))
        mat = replace(mat, readings=(*others, reading))
        summary = f"{mat.name} read at {self.ohm:g} Ω"
        return _with_circuit(home, replace(circuit, mats=swapped(circuit.mats, mat)), summary)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveReading:
    """Remove a reading of a mat."""

    id: Id
    mat_id: Id
    on: date
    stage: OhmStage

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        circuit = home.circuit(self.id)
        mat = _mat(circuit, self.mat_id)
        mat = replace(mat, readings=tuple(r for r in mat.readings if (r.on, r.stage) != (self.on, self.stage)))
        changed = replace(circuit, mats=swapped(circuit.mats, mat))
        return _with_circuit(home, changed, f"A reading of {mat.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteTripTest:
    """Write down a test of a circuit's fault-current device; without milliseconds it did not trip."""

    id: Id
    on: date
    trip_ms: Annotated[float, Ge(0), Le(10_000), Unit("ms")] | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the test."""
        circuit = home.circuit(self.id)
        others = tuple(t for t in circuit.trip_tests if t.on != self.on)
        changed = replace(circuit, trip_tests=(*others, TripTest(on=self.on, trip_ms=self.trip_ms)))
        how = "did not trip" if self.trip_ms is None else f"tripped in {self.trip_ms:g} ms"
        return _with_circuit(home, changed, f"{circuit.name} {how}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveTripTest:
    """Remove a trip test."""

    id: Id
    on: date

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        circuit = home.circuit(self.id)
        changed = replace(circuit, trip_tests=tuple(t for t in circuit.trip_tests if t.on != self.on))
        return _with_circuit(home, changed, f"A trip test of {circuit.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePractice:
    """Choose what the local code and the makers ask; who chooses is written down."""

    values: Annotated[Values, FieldsOf(ElectricalPractice, PRACTICE_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = replace(home.electrical_practice, **self.values)
        return Edit(replace(home, electrical_practice=changed), "Electrical practice chosen")
