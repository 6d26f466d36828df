"""Checks of the drawing and of a home's own figures: what cannot be as drawn, what is missing."""

import itertools
from collections.abc import Iterator

from warmeter.core.building.geometry import is_inside
from warmeter.core.building.heating import room_output_w
from warmeter.core.building.losses import loss_of
from warmeter.core.building.room_envelope import home_plan, wall_of
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Opening
from warmeter.core.sentence import Measure, celsius, sentence

FROST_C = 7.0
RULES = {
    "rooms overlap": "Two rooms of one storey share no floor.",
    "opening off its wall": "A window or door lies between the ends of one wall, below the room's ceiling.",
    "openings overlap": "Two openings of one wall do not cover each other.",
    "outside its room": "What stands in a room stands within its drawing.",
    "room without heater": "A heated room has a heater.",
    "heater too small": "A room's heaters give what it loses on the design day.",
    "room in no zone": "A heated room with a heater belongs to a zone.",
    "protection limit low": sentence("The lower protection limit is {} or more.", celsius(FROST_C)),
    "currency": "A tariff's currency is the home's.",
    "no tariff": "Costs need a tariff.",
}


def drawing_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about rooms, openings, places, guard and tariff."""
    yield from _rooms(home)
    yield from _openings(home)
    yield from _places(home)
    yield from _guard(home)
    yield from _tariff(home)


def _rooms(home: Home) -> Iterator[Finding]:
    plans = home_plan(home)
    for room in home.rooms:
        for other_id, area in plans[room.id].overlaps if room.is_drawn else ():
            if room.id < other_id:
                other = home.room(other_id)
                yield Finding(
                    kind="rooms overlap",
                    severity="warning",
                    place=room.id,
                    sentence=sentence("{} and {} share {} of floor.", room.name, other.name, Measure(area, "m²", 1)),
                    fix="Move or narrow one of them.",
                    about=(room.id, other_id),
                )
        if room.condition != "heated":
            continue
        if not home.heaters_of(room.id) and not any(room.id in system.room_ids for system in home.ducts):
            yield Finding(
                kind="room without heater",
                severity="note",
                place=room.id,
                sentence=f"{room.name} has no heater, so nothing can be timed there.",
                fix="Give it one, or say that it is not heated.",
                about=(room.id,),
            )
            continue
        if home.zone_of_room(room.id) is None:
            yield Finding(
                kind="room in no zone",
                severity="warning",
                place=room.id,
                sentence=f"{room.name} belongs to no zone, so no timetable reaches it.",
                fix="Make it a zone of its own.",
                about=(room.id,),
            )
        needs, gives = loss_of(home, room).safe_w, room_output_w(home, room.id)
        if gives < needs * (1 - 1e-9):
            yield Finding(
                kind="heater too small",
                severity="warning",
                place=room.id,
                sentence=(
                    sentence(
                        "{}'s heaters give {:.0f} W, about {:.0f} % of the {:.0f} W that it loses at {}.",
                        room.name,
                        gives,
                        100 * gives / needs,
                        needs,
                        celsius(home.design.outdoor_c),
                    )
                ),
                fix="Check rated heat and flow temperature, or expect it to stay cool on the coldest days.",
                about=(room.id, *(h.id for h in home.heaters_of(room.id))),
            )


def _openings(home: Home) -> Iterator[Finding]:
    for opening in home.openings:
        room = home.room(opening.room_id)
        if not room.is_drawn:
            continue
        wall, fits = wall_of(home, opening)
        too_tall = opening.sill_m * (opening.kind == "window") + opening.height_m > room.height_m + 1e-9
        if wall is None or not fits or too_tall:
            why = (
                "is taller than its wall"
                if too_tall
                else sentence("is {} wide and does not fit into its wall", Measure(opening.width_m, "m"))
                if wall
                else "lies beyond the wall that it was put in"
            )
            yield Finding(
                kind="opening off its wall",
                severity="warning",
                place=opening.id,
                sentence=sentence("A {} of {} {}.", opening.kind, room.name, why),
                fix="Trim it to its wall.",
                about=(opening.id, room.id),
            )
    yield from _covering(home)


def _covering(home: Home) -> Iterator[Finding]:
    by_wall: dict[tuple[str, str], list[Opening]] = {}
    for opening in home.openings:
        by_wall.setdefault((opening.room_id, opening.side), []).append(opening)
    for (room_id, _), openings in by_wall.items():
        row = sorted(openings, key=lambda o: o.along_m)
        for a, b in itertools.pairwise(row):
            if a.along_m + a.width_m / 2 > b.along_m - b.width_m / 2 + 1e-6:
                yield Finding(
                    kind="openings overlap",
                    severity="warning",
                    place=b.id,
                    sentence=f"A {a.kind} and a {b.kind} of {home.room(room_id).name} cover each other.",
                    fix="Move one along its wall.",
                    about=(b.id, a.id, room_id),
                )


def _places(home: Home) -> Iterator[Finding]:
    placed = [
        *((d.id, d.name, d.room_id, d.at) for d in home.devices if d.is_in_service),
        *((h.id, h.name, h.room_id, h.at) for h in home.heaters),
        *((t.id, t.name, t.room_id, t.at) for t in home.things),
    ]
    rooms = {room.id: room for room in home.rooms}
    for key, name, room_id, at in placed:
        room = rooms.get(room_id or "")
        if room is not None and at is not None and room.is_drawn and not is_inside(room, at):
            yield Finding(
                kind="outside its room",
                severity="warning",
                place=key,
                sentence=f"{name} is placed outside {room.name}.",
                fix="Put it back into its room.",
                about=(key, room.id),
            )


def _guard(home: Home) -> Iterator[Finding]:
    zones = [(z.id, z.name, z.guard.low_c) for z in home.zones if z.guard is not None]
    for key, name, low in [(home.id, "The home", home.guard.low_c), *zones]:
        if low < FROST_C:
            yield Finding(
                kind="protection limit low",
                severity="danger",
                place=key,
                sentence=sentence(
                    "{}'s lower protection limit is below {}: pipes may freeze and damp may settle.",
                    name,
                    celsius(FROST_C),
                ),
                fix=sentence(
                    "Set it to between 7 and {} unless a person who knows the pipes says otherwise.", celsius(12)
                ),
                about=(key,),
            )


def _tariff(home: Home) -> Iterator[Finding]:
    for tariff in home.tariffs:
        turned = {change.from_currency for change in home.currency_changes if change.to_currency == home.currency}
        if tariff.currency != home.currency and tariff.currency not in turned:
            yield Finding(
                kind="currency",
                severity="warning",
                place=tariff.id,
                sentence=f"{tariff.name} is in {tariff.currency}, the home in {home.currency}.",
                fix="Change one of them.",
                about=(tariff.id,),
            )
    if home.newest_tariff is None:
        yield Finding(
            kind="no tariff",
            severity="note",
            place=home.id,
            sentence="There is no tariff, so no costs can be given.",
            fix="Type its rates under Tariff.",
            about=(home.id,),
        )
