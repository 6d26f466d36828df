"""Commands that save typing: a room or a storey copied, a room's usual parts at once."""

from dataclasses import dataclass

from warmeter.core.edits.copies import with_room_copied, with_storey_copied, with_usual_parts
from warmeter.core.edits.edit import Edit
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyRoom:
    """Copy a room with what stands in it, beside the others of its storey."""

    room_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with the copy, which is chosen then."""
        changed, copy = with_room_copied(home, self.room_id)
        return Edit(changed, f"{copy.name} copied from {home.room(self.room_id).name}", copy.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class CopyStorey:
    """Copy a storey with all its rooms, on top of the home."""

    storey_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with the copy."""
        changed = with_storey_copied(home, self.storey_id)
        return Edit(changed, f"{changed.storeys[-1].name} copied from {home.storey(self.storey_id).name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddUsualParts:
    """Put in what a heated room usually has and this one lacks."""

    room_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        room = home.room(self.room_id)
        if room.condition != "heated":
            raise HomeError(f"{room.name} is not heated; say under Shape that it is, or place its parts one by one")
        changed, put_in = with_usual_parts(home, self.room_id)
        if not put_in:
            raise HomeError(f"{room.name} has a heater, what commands it, an air sensor and a window already")
        return Edit(changed, f"{room.name}: {', '.join(put_in)}", room.id)
