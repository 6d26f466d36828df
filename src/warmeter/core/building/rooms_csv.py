"""Rooms as a CSV table, out and in: one line a rectangle; figures that are worked out are written and not read."""

import csv
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import get_args

from warmeter.core.building.losses import loss_of
from warmeter.core.building.room_envelope import design_c, floor_area_m2
from warmeter.core.csv_cells import cell_text, csv_text
from warmeter.core.errors import HomeError, OutOfRange, ReadingError
from warmeter.core.floor_plan.shape import Rect
from warmeter.core.home.document import Home
from warmeter.core.home.rooms import Built, Condition, Room, RoomUse, Storey
from warmeter.core.thermal.survey import MassClass

READ = (
    "id",
    "name",
    "storey",
    "x_m",
    "y_m",
    "width_m",
    "depth_m",
    "height_m",
    "use",
    "condition",
    "built",
    "mass_class",
    "design_c",
)
WRITTEN = ("floor_area_m2", "loss_w")
_NEEDED = ("name", "x_m", "y_m", "width_m", "depth_m")
_CHOICES: dict[str, tuple[str, ...]] = {
    "use": get_args(RoomUse),
    "condition": get_args(Condition),
    "built": get_args(Built),
    "mass_class": get_args(MassClass),
}
_DEFAULT = {"use": "living", "condition": "heated", "built": "1950_1977", "mass_class": "medium"}


def rooms_to_csv(home: Home) -> str:
    """Return all rooms as CSV, metres, °C and watts; a described room has one line without x and y."""
    rows: list[tuple[str, ...]] = [(*READ, *WRITTEN)]
    storeys = {s.id: s.name for s in home.storeys}
    for room in home.rooms:
        loss = f"{loss_of(home, room).safe_w:.0f}" if room.condition == "heated" else ""
        tail = (
            f"{room.height_m:g}",
            room.use,
            room.condition,
            room.built,
            room.mass_class,
            f"{design_c(room):g}",
            f"{floor_area_m2(home, room):.2f}",
            loss,
        )
        for rect in room.rects or (None,):
            place = (
                ("", "", "", "")
                if rect is None
                else (f"{rect.x_m:g}", f"{rect.y_m:g}", f"{rect.width_m:g}", f"{rect.depth_m:g}")
            )
            rows.append((room.id, room.name, storeys.get(room.storey_id or "", ""), *place, *tail))
    return csv_text(rows)


def home_with_rooms(home: Home, lines: Sequence[str], fresh_id: Callable[[], str]) -> Home:
    """Return a home with the rooms of a CSV table: known ids are changed, others added, none removed.

    Lines of one id, or without ids of one name, are the rectangles of one room. Storeys are found by name and
    made where they are new.

    Raises
    ------
    ReadingError
        With the line's number, for a column that is not known or missing, a number or word that cannot be
        taken, a room given twice differently.
    """
    try:
        rows = list(csv.reader(lines))
    except csv.Error as error:
        raise ReadingError(f"this is no CSV table ({error})") from error
    if not rows:
        raise ReadingError("this table is empty; it needs a first line of column names")
    heads = [head.strip() for head in rows[0]]
    strange = [head for head in heads if head not in (*READ, *WRITTEN)]
    if strange:
        raise ReadingError(
            f"the column {strange[0]!r} is not known; units stand in the name. Known are {', '.join(READ)}", 1
        )
    missing = [name for name in _NEEDED if name not in heads]
    if missing:
        raise ReadingError(f"the column {missing[0]!r} is missing", 1)
    groups: dict[str, list[tuple[int, dict[str, str]]]] = {}
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) > len(heads):
            raise ReadingError(f"has {len(row)} cells, the first line {len(heads)} columns", number)
        cells = {head: cell_text(cell) for head, cell in zip(heads, row, strict=False)}
        groups.setdefault(cells.get("id") or f"name:{cells.get('name', '')}", []).append((number, cells))
    for found in groups.values():
        home = _with_room(home, found, fresh_id)
    return home


def _with_room(home: Home, found: list[tuple[int, dict[str, str]]], fresh_id: Callable[[], str]) -> Home:
    number, first = found[0]
    name = first.get("name", "")
    if not 1 <= len(name) <= 80:
        raise ReadingError("the room needs a name of 1 to 80 letters", number)
    known = next((r for r in home.rooms if r.id == first.get("id")), None)
    home, storey = _storey(home, first.get("storey", ""), known, fresh_id)
    rects = tuple(_rect(line, cells) for line, cells in found if cells.get("x_m"))
    if not rects and (known is None or known.described is None):
        raise ReadingError(f"{name} has no rectangle; x_m, y_m, width_m and depth_m say where it lies", number)
    words = {
        key: _word(number, key, first.get(key, ""), getattr(known, key) if known else _DEFAULT[key]) for key in _CHOICES
    }
    height = _number(number, "height_m", first.get("height_m") or f"{known.height_m if known else storey.height_m:g}")
    wanted = _number(number, "design_c", first["design_c"]) if first.get("design_c") else None
    if known is not None and wanted is not None and known.design_c is None and abs(wanted - design_c(known)) < 1e-9:
        wanted = None
    try:
        if known is not None:
            room = replace(known, name=name, height_m=height, design_c=wanted, rects=rects, **words)  # type: ignore[arg-type]
        else:
            room = Room(
                id=fresh_id(),
                name=name,
                height_m=height,
                design_c=wanted,
                rects=rects,
                storey_id=storey.id,
                **words,  # type: ignore[arg-type]
            )
        room = replace(room, storey_id=storey.id) if rects else room
    except HomeError as error:
        raise ReadingError(str(error), number) from error
    _check(number, room)
    rooms = tuple(room if r.id == room.id else r for r in home.rooms) if known else (*home.rooms, room)
    return replace(home, rooms=rooms)


def _check(number: int, room: Room) -> None:
    if not 1 <= room.height_m <= 20:
        raise ReadingError(f"height_m must be between 1 and 20 (got {room.height_m:g})", number)
    if room.design_c is not None and not -30 <= room.design_c <= 60:
        raise ReadingError(f"design_c must be between −30 and 60 (got {room.design_c:g})", number)


def _storey(home: Home, name: str, known: Room | None, fresh_id: Callable[[], str]) -> tuple[Home, Storey]:
    found = next((s for s in home.storeys if s.name == name), None)
    if found is None and not name and known is not None and known.storey_id:
        found = home.storey(known.storey_id)
    if found is None and not name and home.storeys:
        found = home.storeys[0]
    if found is not None:
        return home, found
    level = max((s.level for s in home.storeys), default=-1) + 1
    storey = Storey(id=fresh_id(), name=(name or "Ground floor")[:80], level=level)
    return replace(home, storeys=(*home.storeys, storey)), storey


def _rect(number: int, cells: dict[str, str]) -> Rect:
    x, y, width, depth = (_number(number, key, cells.get(key, "")) for key in ("x_m", "y_m", "width_m", "depth_m"))
    for key, value, low, high in (
        ("x_m", x, -500, 500),
        ("y_m", y, -500, 500),
        ("width_m", width, 0.1, 100),
        ("depth_m", depth, 0.1, 100),
    ):
        if not low <= value <= high:
            raise ReadingError(str(OutOfRange(key, value, low, high, "m")), number)
    return Rect(x_m=x, y_m=y, width_m=width, depth_m=depth)


def _number(number: int, key: str, text: str) -> float:
    try:
        return float(text.replace(",", ".").replace("\u2212", "-"))
    except ValueError as error:
        raise ReadingError(f"{key} is {text!r}, which is no number", number) from error


def _word(number: int, key: str, text: str, default: str) -> str:
    if not text:
        return default
    if text not in _CHOICES[key]:
        raise ReadingError(f"{key} is {text!r}; it is one of {', '.join(_CHOICES[key])}", number)
    return text
