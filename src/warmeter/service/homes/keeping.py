"""Homes that cannot be read, are taken away, or come back: nothing is lost, and one never harms the others."""

from warmeter.core.errors import HomeError
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App, Person
from warmeter.store.homes import Change, HomeLine, HomeUnreadable, Revision

KEPT_DAYS = 30
LOOKED_AT = 50


def readable_revisions(app: App, home_id: str) -> list[Revision]:
    """Return the newest revisions of a home that can be read, of the last fifty."""
    found = []
    for revision in app.homes.revisions(home_id, most=LOOKED_AT):
        try:
            app.homes.load(home_id, revision.number)
        except HomeUnreadable:
            continue
        found.append(revision)
    return found


def go_back(app: App, home_id: str, number: int, person: Person) -> int:
    """Make an earlier revision the newest of a home whose newest cannot be read; return its number.

    Raises
    ------
    HomeNotFound
        If there is no such revision.
    HomeUnreadable
        If that one cannot be read either.
    """
    _, base = app.homes.stored(home_id)
    old, _ = app.homes.load(home_id, number)
    summary = f"Restored: revision {number}, since revision {base} could not be read"
    return app.homes.save(old, Change(base=base, author=person.name, summary=summary, at_ms=app.now_ms()))


def take_away(app: App, home_id: str, typed_name: str) -> HomeLine:
    """Take a home away, to be gone for good after thirty days.

    Raises
    ------
    HomeError
        If the name typed is not the home's, or there is no such home.
    """
    line = app.homes.line(home_id)
    if line is None:
        raise HomeError("this home is not here any more; look at the list of homes")
    if typed_name.strip() != line.name.strip():
        raise HomeError(f"type the home's name, {line.name}, just as it stands; nothing was removed")
    app.homes.take_away(home_id, app.now_ms())
    return line


def taken_away(app: App) -> list[tuple[HomeLine, int]]:
    """Return the homes that are taken away, each with the whole days that it is still kept."""
    now = app.now_ms()
    return [
        (line, max(0, KEPT_DAYS - (now - line.taken_away_ms) // MS_PER_DAY))
        for line in app.homes.all_lines()
        if line.taken_away_ms is not None
    ]


def remove_old(app: App) -> list[str]:
    """Remove for good what was taken away over thirty days ago; return the names."""
    return app.homes.remove_for_good(app.now_ms() - KEPT_DAYS * MS_PER_DAY)
