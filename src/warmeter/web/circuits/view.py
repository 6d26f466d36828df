"""Circuits and their mats as ready strings."""

from dataclasses import dataclass
from datetime import date

from warmeter.core.electric.circuit_summary import CircuitSummary, MatSummary, circuit_summary, floor_relays
from warmeter.core.electric.floor_mats import COVER_LIMIT_C
from warmeter.core.home.circuits import Circuit
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.wording import day_short
from warmeter.web import format as show
from warmeter.web.work.checklist_view import checklist_summary

STAGE_WORDS = {"before": "before laying", "laid": "laid", "covered": "covered", "later": "later"}
COVER_WORDS = {key: key for key in COVER_LIMIT_C}


@dataclass(frozen=True, slots=True, kw_only=True)
class MatRow:
    """A mat in the table: ohms by stage, the newest, how far off."""

    id: str
    name: str
    room: str
    power: str
    expected: str
    before: str
    covered: str
    newest: str
    off: str
    is_off: bool
    density: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitRow:
    """A circuit in the table, its mats under one another."""

    id: str
    name: str
    volts: str
    protection: str
    current: str
    limit: str
    is_over: bool
    thermostats: str
    board_modules: str
    trip_on: str
    trip_ms: str
    trip_due: str
    is_due: bool
    checklist: str
    hangs: str
    mats: list[MatRow]
    is_on: bool


def circuit_rows(home: Home, at: str, today: date) -> list[CircuitRow]:
    """Return the circuits of a home; ``at`` is the chosen one."""
    return [_row(home, circuit_summary(home, circuit), at, today) for circuit in home.circuits]


def _row(home: Home, found: CircuitSummary, at: str, today: date) -> CircuitRow:
    circuit = found.circuit
    last = max(circuit.trip_tests, key=lambda test: test.on, default=None)
    own = [each for each in home.checklists if each.about_id == circuit.id and each.kind == "floor_circuit"]
    phases = "3 × " if circuit.phases == 3 else ""
    names = part_names(home.heaters, home.appliances)
    return CircuitRow(
        id=circuit.id,
        name=circuit.name,
        volts=f"{phases}{circuit.volts_v:g}",
        protection=_protection(circuit),
        current=show.number(found.load.current_a, 1),
        limit=show.number(found.load.limit_a, 1),
        is_over=not found.load.is_within,
        thermostats="" if found.thermostats is None else f"{found.thermostats.count}",
        board_modules=f"{circuit.board_modules}",
        trip_on="" if last is None else day_short(last.on, home.country),
        trip_ms="" if last is None else "no trip" if last.trip_ms is None else f"{last.trip_ms:g}",
        trip_due="" if found.trip_due is None else day_short(found.trip_due, home.country),
        is_due=found.trip_due is not None and found.trip_due < today,
        checklist=checklist_summary(own[-1]) if own else "",
        hangs=", ".join(names[key] for key in (*circuit.heater_ids, *circuit.appliance_ids)),
        mats=[_mat(home, mat) for mat in found.mats],
        is_on=circuit.id == at,
    )


def _protection(circuit: Circuit) -> str:
    residual = "" if circuit.residual_ma is None else f", {circuit.residual_ma:g} mA"
    return f"{circuit.curve}{circuit.rating_a:g} A{residual}"


def _mat(home: Home, found: MatSummary) -> MatRow:
    mat = found.mat

    def read(stage: str) -> str:
        reading = found.by_stage.get(stage)
        return "" if reading is None else show.number(reading.ohm, 1)

    return MatRow(
        id=mat.id,
        name=mat.name,
        room="" if mat.room_id is None else home.room(mat.room_id).name,
        power=show.number(mat.power_w),
        expected=show.number(found.expected_ohm, 1),
        before=read("before"),
        covered=read("covered") or read("laid"),
        newest="" if found.newest is None else show.number(found.newest.ohm, 1),
        off="" if found.off_pct is None else show.number(found.off_pct, 1, is_signed=True),
        is_off=found.is_sound is False,
        density="" if found.density_w_m2 is None else show.number(found.density_w_m2),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class BoardView:
    """What all circuits take: modules of the board and of relays."""

    board: str
    relays: str


def board_view(home: Home) -> BoardView:
    """Return what the circuits of a home take."""
    taken, room = sum(c.board_modules for c in home.circuits), home.electrical_practice.board_modules
    relays = floor_relays(home)
    return BoardView(
        board=f"{taken} modules" if room is None else f"{taken} of {room} modules",
        relays=""
        if relays is None
        else f"{relays.modules} of {home.electrical_practice.relay_channels} channels for {relays.channels} mats",
    )
