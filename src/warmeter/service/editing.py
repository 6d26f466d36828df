"""Changing a home: every edit a revision, undo among them, imports too."""

import secrets
from collections.abc import Callable
from dataclasses import replace

from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.home.plant import Heater
from warmeter.core.home.presets import FIRST_DAY, FIRST_KINDS, FIRST_LEVELS
from warmeter.core.home.rooms import Room
from warmeter.core.home.timetables import every_day
from warmeter.core.home.zones import Level, Zone
from warmeter.service import logs
from warmeter.service.app import App, Person
from warmeter.store.homes import Change, NothingToUndo, Revision


def new_id() -> str:
    """Return a short random id."""
    return secrets.token_hex(4)


def create_home(app: App, home: Home, person: Person, summary: str = "Home described") -> int:
    """Store a new home."""
    return app.homes.create(home, author=person.name, at_ms=app.now_ms(), summary=summary)


def edit_home(
    app: App, home_id: str, base: int, person: Person, summary: str, change: Callable[[Home], Home], fold: str = ""
) -> int:
    """Apply a change to the revision it was made on and save it.

    Raises
    ------
    RevisionConflict
        If another window saved meanwhile.
    WarmeterError
        If the changed home has no meaning; nothing is saved then.
    """
    home, _ = app.homes.load(home_id)
    changed = change(home)
    if changed == home:
        return base
    key = f"{person.window}:{fold}" if fold and person.window else ""
    return app.homes.save(changed, Change(base=base, author=person.name, summary=summary, at_ms=app.now_ms(), fold=key))


def with_level(home: Home, level: Level) -> Home:
    """Return a home with a level changed."""
    home.level(level.id)
    return replace(home, levels=tuple(level if each.id == level.id else each for each in home.levels))


def with_appliance(home: Home, appliance: Appliance) -> Home:
    """Return a home with an appliance changed."""
    home.appliance(appliance.id)
    return replace(home, appliances=tuple(appliance if a.id == appliance.id else a for a in home.appliances))


def with_zone_for(home: Home, room: Room) -> Home:
    """Return a home with a zone of its own, and a first day, for a room; first levels and kinds of day if none."""
    if not home.levels:
        home = replace(home, levels=tuple(replace(level, id=new_id()) for level in FIRST_LEVELS))
    if not home.day_kinds and not home.zones:
        home = replace(home, day_kinds=tuple(replace(kind, id=new_id()) for kind in FIRST_KINDS))
    by_name = {level.name: level.id for level in home.levels}
    fallback = home.levels[0].id
    names = {level.id: level.name for level in FIRST_LEVELS}
    day = tuple(replace(point, level_id=by_name.get(names[point.level_id], fallback)) for point in FIRST_DAY)
    zone = Zone(id=new_id(), name=room.name, room_ids=(room.id,), timetables=every_day(new_id(), *day))
    return replace(home, zones=(*home.zones, zone))


def with_room(home: Home, room: Room, heater: Heater) -> Home:
    """Return a home with a described room added: its heater, and a zone of its own."""
    return with_zone_for(replace(home, rooms=(*home.rooms, room), heaters=(*home.heaters, heater)), room)


def with_machine(home: Home, name: str) -> Home:
    """Return a home with a machine on a metering plug added."""
    return replace(home, appliances=(*home.appliances, Appliance(id=new_id(), name=name)))


def next_undone(app: App, home_id: str) -> Revision:
    """Return the change that an undo would take away; ``NothingToUndo`` if only the making of the home is left."""
    done = app.homes.history(home_id).done
    if not done or done[-1].parent < 1:
        raise NothingToUndo(home_id)
    return done[-1]


def undo(app: App, home_id: str, base: int, person: Person) -> Revision:
    """Undo the newest change that stands; an import's readings are taken back.

    Returns the revision undone.

    Raises
    ------
    NothingToUndo
        If only the making of the home is left.
    RevisionConflict
        If another window saved meanwhile.
    """
    undone = next_undone(app, home_id)
    if undone.import_id is not None:
        logs.take_back(app, home_id, undone.import_id, person)
        return undone
    home, _ = app.homes.load(home_id, undone.parent)
    change = Change(
        base=base,
        author=person.name,
        summary=f"Undone: {undone.summary} (by {undone.author})",
        at_ms=app.now_ms(),
        undoes=undone.number,
    )
    app.homes.save(home, change)
    return undone


def redo(app: App, home_id: str, base: int, person: Person) -> Revision:
    """Bring back the change undone last, as long as nothing else was changed since.

    Returns the revision brought back.

    Raises
    ------
    NothingToUndo
        If nothing was undone, or something was changed since.
    RevisionConflict
        If another window saved meanwhile.
    """
    undone = app.homes.history(home_id).undone
    if not undone:
        raise NothingToUndo(home_id)
    back = next(r for r in app.homes.revisions(home_id) if r.number == undone[-1].undoes)
    if back.import_id is not None:
        logs.bring_back(app, home_id, back.import_id, person)
        return back
    home, _ = app.homes.load(home_id, back.number)
    change = Change(
        base=base,
        author=person.name,
        summary=f"Done again: {back.summary} (by {back.author})",
        at_ms=app.now_ms(),
        undoes=undone[-1].number,
    )
    app.homes.save(home, change)
    return back


def restore(app: App, home_id: str, base: int, number: int, person: Person) -> int:
    """Bring a home back to an earlier revision, as a revision of its own that can be undone.

    Raises
    ------
    HomeNotFound
        If there is no such revision.
    RevisionConflict
        If another window saved meanwhile.
    """
    old, _ = app.homes.load(home_id, number)
    summary = f"Restored: revision {number}"
    return edit_home(app, home_id, base, person, summary, lambda _: old)


def planned_run(home: Home, appliance_id: str, start_min: int) -> Home:
    """Return a home with a machine's run planned at a minute of the day."""
    return with_appliance(home, replace(home.appliance(appliance_id), start_min=start_min))
