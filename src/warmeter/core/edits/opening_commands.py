"""Commands on windows and doors."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.room_commands import PlanM
from warmeter.core.floor_plan.shape import Side
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Unit, Word
from warmeter.core.home.rooms import Opening, OpeningKind

OPENING_FIELDS = (
    "along_m",
    "width_m",
    "height_m",
    "sill_m",
    "frame_share",
    "shade",
    "overhang_m",
    "overhang_gap_m",
    "u_w_m2k",
    "g_value",
    "side",
    "kind",
    "blind",
    "blind_lets",
    "blind_motor_id",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddOpening:
    """Put a window or door into a wall: the one nearest to a point, or the middle of a room's side."""

    kind: OpeningKind
    x_m: PlanM | None = None
    y_m: PlanM = 0.0
    storey_id: Word = ""
    room_id: Word = ""
    side: Side = "up"

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        room_id, side, along_m = self.room_id, self.side, None
        if self.x_m is not None:
            wall = floor_plan_edits.nearest_wall(home, self.storey_id, self.x_m, self.y_m)
            room_id, side, along_m = wall.room.id, wall.side, round(wall.along_m, 1)
        changed = floor_plan_edits.with_opening(home, room_id, self.kind, side, along_m)
        return Edit(changed, f"{home.room(room_id).name} has another {self.kind}", changed.openings[-1].id)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveOpening:
    """Move a window or door along its wall."""

    id: Id
    along_m: Annotated[float, Ge(-100), Le(100), Unit("m")]

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        moved = replace(home.opening(self.id), along_m=round(self.along_m, 2))
        changed = replace(home, openings=swapped(home.openings, moved))
        return Edit(changed, f"A {moved.kind} moved", self.id, fold=f"opening-{self.id}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeOpening:
    """Type the figures of a window or door."""

    id: Id
    values: Annotated[Values, FieldsOf(Opening, OPENING_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        changed = replace(home.opening(self.id), **self.values)
        name = home.room(changed.room_id).name
        return Edit(replace(home, openings=swapped(home.openings, changed)), f"A {changed.kind} of {name}", self.id)
