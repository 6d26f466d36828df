"""Checks of electric circuits: loads, ohms of mats, insulation, fault-current devices, dates, probes, the board."""

from collections import Counter
from collections.abc import Iterator

from warmeter.core.electric.circuit_summary import CHANGED_PCT, CircuitSummary, MatSummary, circuit_summary
from warmeter.core.electric.floor_mats import COVER_LIMIT_C, COVER_MOST_W_M2
from warmeter.core.finding import Finding
from warmeter.core.home.circuits import ElectricalPractice
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.plant import Heater
from warmeter.core.home.rooms import Room
from warmeter.core.sentence import celsius, sentence

MOST_RESIDUAL_MA = 30.0
PROBES_APART_PCT = 5.0
RULES = {
    "circuit overloaded": "What runs three hours or more on a circuit stays within the share of its rating that the local code allows.",
    "control overloaded": "What a thermostat or relay switches stays within its own amperes.",
    "ohms off": "A mat's ohms lie within the tolerance of what its plate says.",
    "ohms changed": f"A mat's ohms stay within {CHANGED_PCT:g} % of what was read before it was laid.",
    "insulation low": "Between a mat's wire and its screen there is at least the insulation that was chosen.",
    "mat not measured": "A mat is measured before it is laid and after it is covered.",
    "dates out of order": "What was read before laying has an earlier date than what was read after it.",
    "no fault-current device": f"A heated floor hangs on a fault-current device of at most {MOST_RESIDUAL_MA:g} mA.",
    "trips too slowly": "A fault-current device trips within its limit at its test.",
    "too dense under its cover": "A floor's watts a square metre suit what lies on it.",
    "cover without its limit": "Underfloor heating under timber, vinyl, laminate or carpet has the surface limit of its maker.",
    "probes differ": f"A floor's probe and its spare read the same within {PROBES_APART_PCT:g} %.",
    "on two circuits": "A heater or machine hangs on one circuit.",
    "board is full": "The circuits have room on the board.",
}


def circuit_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about the circuits of a home."""
    for circuit in home.circuits:
        found = circuit_summary(home, circuit)
        yield from _loads(found)
        yield from _fault_current(found, home.electrical_practice)
        yield from _probes(found)
        for mat in found.mats:
            yield from _ohms(found, mat, home.electrical_practice)
            yield from _cover(home, found, mat)
    yield from _board(home)


def _loads(found: CircuitSummary) -> Iterator[Finding]:
    circuit, load = found.circuit, found.load
    if not load.is_within:
        yield Finding(
            kind="circuit overloaded",
            severity="danger",
            place=circuit.id,
            sentence=f"{circuit.name} draws {load.current_a:.1f} A; {load.limit_a:.1f} A may run for hours on it.",
            fix="Take a load off it, or ask a licensed electrician for another circuit.",
            about=(circuit.id,),
        )
    if found.thermostats is not None and circuit.control_a is not None and found.thermostats.count > len(found.mats):
        yield Finding(
            kind="control overloaded",
            severity="danger",
            place=circuit.id,
            sentence=f"{circuit.name} needs {found.thermostats.count} thermostats of {circuit.control_a:g} A; it has "
            f"{len(found.mats)} cable{'s' * (len(found.mats) != 1)}.",
            fix="Let a contactor switch the floor, chosen by a licensed electrician.",
            about=(circuit.id,),
        )
    elif circuit.control_a is not None:
        for mat in found.mats:
            if mat.current_a > circuit.control_a + 1e-9:
                yield Finding(
                    kind="control overloaded",
                    severity="danger",
                    place=circuit.id,
                    sentence=f"{mat.mat.name} draws {mat.current_a:.1f} A; its thermostat or relay may carry {circuit.control_a:g} A.",
                    fix="Let a contactor switch it, chosen by a licensed electrician.",
                    about=(circuit.id, mat.mat.id),
                )


def _ohms(found: CircuitSummary, own: MatSummary, practice: ElectricalPractice) -> Iterator[Finding]:
    mat, place, about = own.mat, found.circuit.id, (found.circuit.id, own.mat.id)
    first, last = own.by_stage.get("before"), own.newest
    if last is None or first is None or not {"covered", "later"} & set(own.by_stage):
        yield Finding(
            kind="mat not measured",
            severity="note",
            place=place,
            sentence=f"{mat.name} has no reading {'before it was laid' if first is None else 'after it was covered'}.",
            fix="Measure it when it is dead, and type what the meter reads.",
            about=about,
        )
    if last is None:
        return
    if own.is_sound is False and own.off_pct is not None:
        over = own.off_pct > 0
        yield Finding(
            kind="ohms off",
            severity="danger",
            place=place,
            sentence=f"{mat.name} reads {last.ohm:g} Ω, {abs(own.off_pct):.1f} % {'over' if over else 'under'} the "
            f"{own.expected_ohm:.1f} Ω expected: {'a joint or the wire is failing' if over else 'a part of it is bridged'}.",
            fix="Do not energise it; let a licensed electrician look.",
            about=about,
        )
    elif first is not None and abs(last.ohm / first.ohm - 1) > CHANGED_PCT / 100 + 1e-9:
        yield Finding(
            kind="ohms changed",
            severity="warning",
            place=place,
            sentence=f"{mat.name} read {first.ohm:g} Ω before it was laid and {last.ohm:g} Ω on {last.on}.",
            fix="Measure it once more, cold; if it stays so, let a licensed electrician look.",
            about=about,
        )
    told = [reading for reading in mat.readings if reading.insulation_mohm is not None]
    newest = max(told, key=lambda reading: reading.on, default=None)
    if newest is not None and (newest.insulation_mohm or 0.0) < practice.insulation_least_mohm - 1e-9:
        yield Finding(
            kind="insulation low",
            severity="danger",
            place=place,
            sentence=f"{mat.name} has {newest.insulation_mohm:g} MΩ to its screen; {practice.insulation_least_mohm:g} MΩ is the least.",
            fix="Do not energise it; let a licensed electrician look.",
            about=about,
        )
    order = [own.by_stage[stage].on for stage in ("before", "laid", "covered") if stage in own.by_stage]
    if order != sorted(order):
        yield Finding(
            kind="dates out of order",
            severity="warning",
            place=place,
            sentence=f"{mat.name}: what was read before laying has a later date than what was read after it.",
            fix="Correct the date or the stage of a reading.",
            about=about,
        )


def _cover(home: Home, found: CircuitSummary, own: MatSummary) -> Iterator[Finding]:
    mat, place, about = own.mat, found.circuit.id, (found.circuit.id, own.mat.id)
    most = COVER_MOST_W_M2[mat.cover]
    if own.density_w_m2 is not None and own.density_w_m2 > most + 1e-9:
        yield Finding(
            kind="too dense under its cover",
            severity="warning",
            place=place,
            sentence=f"{mat.name} has {own.density_w_m2:.0f} W/m² under {mat.cover}; usual is at most {most:g}.",
            fix="See what the maker of the cover allows.",
            about=about,
        )
    limit = COVER_LIMIT_C[mat.cover]
    room, floor = _floor_of(home, mat.room_id)
    if limit >= COVER_LIMIT_C["tile"] or room is None or floor is None:
        return
    if floor.surface_limit_c is None or floor.surface_limit_c > limit + 1e-9:
        yield Finding(
            kind="cover without its limit",
            severity="warning",
            place=place,
            sentence=sentence(
                "{} lies under {} in {}, whose underfloor heating is not limited to {}.",
                mat.name,
                mat.cover,
                room.name,
                celsius(limit),
            ),
            fix="Type the limit of the cover's maker at the heater, and set it in the floor's own limiter.",
            about=(*about, floor.id),
        )


def _floor_of(home: Home, room_id: str | None) -> tuple[Room | None, Heater | None]:
    """Return a room and the warm floor in it."""
    if room_id is None:
        return None, None
    return home.room(room_id), next((h for h in home.heaters_of(room_id) if h.kind == "warm_floor"), None)


def _fault_current(found: CircuitSummary, practice: ElectricalPractice) -> Iterator[Finding]:
    circuit = found.circuit
    if circuit.mats and (circuit.residual_ma is None or circuit.residual_ma > MOST_RESIDUAL_MA + 1e-9):
        has = "no fault-current device" if circuit.residual_ma is None else f"one of {circuit.residual_ma:g} mA"
        yield Finding(
            kind="no fault-current device",
            severity="danger",
            place=circuit.id,
            sentence=f"{circuit.name} heats a floor and has {has}.",
            fix=f"A heated floor hangs on one of {MOST_RESIDUAL_MA:g} mA or less; a licensed electrician fits it.",
            about=(circuit.id,),
        )
    last = max(circuit.trip_tests, key=lambda test: test.on, default=None)
    if last is None or (last.trip_ms is not None and last.trip_ms <= practice.trip_limit_ms + 1e-9):
        return
    how = "did not trip" if last.trip_ms is None else f"took {last.trip_ms:g} ms"
    yield Finding(
        kind="trips too slowly",
        severity="danger",
        place=circuit.id,
        sentence=f"The fault-current device of {circuit.name} {how} on {last.on}; {practice.trip_limit_ms:g} ms is the most.",
        fix="Switch the circuit off and let a licensed electrician change it.",
        about=(circuit.id,),
    )


def _probes(found: CircuitSummary) -> Iterator[Finding]:
    circuit = found.circuit
    own, spare = circuit.probe_ohm, circuit.spare_probe_ohm
    if own is not None and spare is not None and abs(spare / own - 1) > PROBES_APART_PCT / 100 + 1e-9:
        yield Finding(
            kind="probes differ",
            severity="warning",
            place=circuit.id,
            sentence=f"{circuit.name}: its floor probe reads {own:g} Ω and the spare {spare:g} Ω in the same floor.",
            fix="Read both once more, within a minute; if they still differ, one of them is failing.",
            about=(circuit.id,),
        )


def _board(home: Home) -> Iterator[Finding]:
    hung = Counter(key for circuit in home.circuits for key in (*circuit.heater_ids, *circuit.appliance_ids))
    for key, count in hung.items():
        if count > 1:
            feeding = [c for c in home.circuits if key in (*c.heater_ids, *c.appliance_ids)]
            what = part_names(home.heaters, home.appliances)[key]
            yield Finding(
                kind="on two circuits",
                severity="warning",
                place=feeding[0].id,
                sentence=f"{what} hangs on {' and '.join(c.name for c in feeding)}.",
                fix="Leave it on the circuit that feeds it.",
                about=(feeding[0].id, key),
            )
    room = home.electrical_practice.board_modules
    taken = sum(circuit.board_modules for circuit in home.circuits)
    if room is not None and taken > room:
        yield Finding(
            kind="board is full",
            severity="warning",
            place=home.circuits[0].id,
            sentence=f"The circuits take {taken} modules of the board; it has {room}.",
            fix="Ask a licensed electrician for a second board.",
            about=(home.circuits[0].id,),
        )
