"""A home as it is handed to others: without the witnesses that its people keep to themselves."""

from dataclasses import replace

from warmeter.core.edits.mentions import without_mentions
from warmeter.core.home.document import Home

# Devices that are one person's alone.
PERSONAL = ("telephone", "mattress")


def shareable(home: Home) -> Home:
    """Return a home without private witnesses, and without telephones and beds that tell of nobody else."""
    private = {w.id for person in home.people for w in person.witnesses if w.is_private}
    if not private:
        return home
    hidden = {key for p in home.people for w in p.witnesses if w.id in private for key in w.device_ids}
    shown = {key for p in home.people for w in p.witnesses if w.id not in private for key in w.device_ids}
    gone = {d.id for d in home.devices if d.id in hidden - shown and d.kind in PERSONAL}
    people = tuple(
        replace(person, witnesses=tuple(w for w in person.witnesses if w.id not in private)) for person in home.people
    )
    home = without_mentions(replace(home, people=people), gone)
    return replace(home, devices=tuple(d for d in home.devices if d.id not in gone))
