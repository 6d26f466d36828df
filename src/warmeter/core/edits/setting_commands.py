"""Commands on what was read in a device: its settings in several places, its valve's exercise."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from warmeter.core.edits.device_commands import PlaceInList
from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.home.devices import Device, SettingReading, ValveExercise
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name

EXERCISE_FIELDS = ("weekday", "at_min", "every_days", "worked_on")


def _with(home: Home, device: Device, summary: str) -> Edit:
    return Edit(replace(home, devices=swapped(home.devices, device)), summary, device.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadSetting:
    """Save what a setting of a device reads in one place; readings of other places stay as they are."""

    id: Id
    setting: Name
    value: Name
    where: Name
    on: date | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it; an older reading of the same place is replaced."""
        device = home.device(self.id)
        read = SettingReading(setting=self.setting, value=self.value, where=self.where, on=self.on)
        same = (self.setting.casefold(), self.where.casefold())
        others = tuple(r for r in device.settings_read if (r.setting.casefold(), r.where.casefold()) != same)
        changed = replace(device, settings_read=(*others, read))
        return _with(home, changed, f"{device.name}: {self.setting} reads {self.value} on {self.where}"[:200])


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveSettingReading:
    """Remove a reading of a setting."""

    id: Id
    index: PlaceInList

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        device = home.device(self.id)
        left = tuple(r for place, r in enumerate(device.settings_read) if place != self.index)
        return _with(home, replace(device, settings_read=left), f"{device.name}: a reading removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeExercise:
    """Type when a valve works itself free, and when it was last seen to."""

    id: Id
    values: Annotated[Values, FieldsOf(ValveExercise, EXERCISE_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        changed = replace(device, exercise=replace(device.exercise or ValveExercise(), **dict(self.values)))
        return _with(home, changed, f"{device.name}: its exercise")
