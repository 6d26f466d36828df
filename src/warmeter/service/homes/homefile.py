"""Whole homes and their rooms as files: read with a clear refusal, taken as a new home or as one revision."""

from collections.abc import Iterable
from dataclasses import replace

from pydantic import ValidationError

from warmeter.core.building.rooms_csv import home_with_rooms
from warmeter.core.edits.edit import Apply
from warmeter.core.edits.home_edits import with_zone_for
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.link.usual_topics import with_own_topics
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home
from warmeter.service.limits import FILE_BYTES, size_told
from warmeter.store.codec import home_from_json, places_told


def joined(parts: Iterable[bytes]) -> bytes:
    """Return a file's bytes; ``HomeError`` if it is empty or larger than is taken."""
    data = bytearray()
    for part in parts:
        data += part
        if len(data) > FILE_BYTES:
            raise HomeError(f"this file is larger than {size_told(FILE_BYTES)}; a home's file is far smaller")
    if not data.strip():
        raise HomeError("this file is empty; choose another")
    return bytes(data)


def home_of_file(data: bytes) -> Home:
    """Return the home of a JSON file.

    Raises
    ------
    HomeError
        With the place and what is wrong there.
    """
    try:
        return home_from_json(data)
    except ValidationError as error:
        told = places_told(error)
        more = error.error_count() - len(told)
        rest = f"; and {more} more" if more > 0 else ""
        raise HomeError(f"this file cannot be taken: {'; '.join(told)}{rest}. Nothing was changed") from error
    except WarmeterError:
        raise
    except (ValueError, UnicodeDecodeError, AttributeError) as error:
        raise HomeError(f"this is no JSON of a home ({error}); nothing was changed") from error


def bring_in(app: App, data: bytes, person: Person, name: str) -> str:
    """Store a file's home as a new one and return its id; a home that is there already gets a new id.

    Raises
    ------
    HomeError
        If the file is no home.
    """
    home = home_of_file(data)
    if home.id in {line.id for line in app.homes.all_lines()}:
        home = replace(with_own_topics(home, new_id()), name=f"{home.name[:70]} (copy)")
    # Nothing is sent to anybody's devices before a person says so here.
    home = replace(home, link=replace(home.link, mode="off"))
    app.homes.create(home, author=person.name, at_ms=app.now_ms(), summary=f"Imported from {name}"[:400])
    return home.id


def put_in_place(app: App, home_id: str, base: int, data: bytes, person: Person, name: str) -> int:
    """Save a file's home as a revision of a home.

    Raises
    ------
    HomeError
        If the file is no home, or another home's.
    RevisionConflict
        If another window saved meanwhile.
    """
    home = home_of_file(data)
    if home.id != home_id:
        raise HomeError(
            f"this file is of another home ({home.name!r}); import it as a home of its own on the page of homes"
        )
    command = Apply(change=lambda _: home, summary=f"Imported from {name}")
    return edit_home(app, home_id, base, person, command)[1]


def take_rooms(app: App, home_id: str, base: int, data: bytes, person: Person, name: str) -> int:
    """Save a CSV table's rooms as a revision; new rooms get a zone of their own.

    Raises
    ------
    ReadingError
        With the line that cannot be taken; nothing is saved then.
    RevisionConflict
        If another window saved meanwhile.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise HomeError("this table is not in UTF-8; save it as CSV in UTF-8") from error

    def change(home: Home) -> Home:
        known = {r.id for r in home.rooms}
        changed = home_with_rooms(home, text.splitlines(), new_id)
        for room in changed.rooms:
            if room.id not in known:
                changed = with_zone_for(changed, room)
        return changed

    return edit_home(app, home_id, base, person, Apply(change=change, summary=f"Rooms from {name}"))[1]
