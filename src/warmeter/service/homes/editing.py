"""Changing a home: every edit a revision, undo among them, imports too."""

from collections.abc import Callable

from warmeter.core.edits.edit import Apply, Command, Edit
from warmeter.core.home.document import Home
from warmeter.core.sentence import in_unit
from warmeter.service.app import App, Person
from warmeter.service.readings import logs
from warmeter.store.homes import Change, NothingToUndo, Revision


def create_home(app: App, home: Home, person: Person, summary: str = "Home described") -> int:
    """Store a new home."""
    return app.homes.create(home, author=person.name, at_ms=app.now_ms(), summary=summary)


def edit_home(
    app: App, home_id: str, base: int, person: Person, command: Command | Callable[[Home], Command]
) -> tuple[Edit, int]:
    """Do a command, or the one made for the home as it is, to the revision it was made on, and save what comes of it.

    Returns the edit and the number of the revision that holds it.

    Raises
    ------
    RevisionConflict
        If another window saved meanwhile.
    WarmeterError
        If it cannot be done, or the changed home has no meaning; nothing is saved then.
    """
    home, _ = app.homes.load(home_id)
    edit = (command(home) if callable(command) else command).edit(home)
    if edit.home != home:
        key = f"{person.window}:{edit.fold}" if edit.fold and person.window else ""
        summary = in_unit(edit.summary, edit.home.units)[:400]
        change = Change(base=base, author=person.name, summary=summary, at_ms=app.now_ms(), fold=key)
        return edit, app.homes.save(edit.home, change)
    return edit, base


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
    command = Apply(change=lambda _: old, summary=f"Restored: revision {number}")
    return edit_home(app, home_id, base, person, command)[1]
