"""Commands on panels: what each lamp shows and its button does."""

from dataclasses import dataclass, replace
from typing import Annotated

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.panels import PanelFunction
from warmeter.core.home.part import Id, Name

FUNCTION_FIELDS = (
    "name",
    "blink_s",
    "watch_s",
    "blinking_means",
    "lamp_sensor_id",
    "presser_id",
    "rest_s",
    "hour_most",
    "check_s",
    "tries",
)


def _with(home: Home, device: Device, functions: tuple[PanelFunction, ...], summary: str) -> Edit:
    changed = replace(device, panel=functions)
    return Edit(replace(home, devices=swapped(home.devices, changed)), summary, device.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPanelFunction:
    """Say what a lamp of a panel shows."""

    id: Id
    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        device = home.device(self.id)
        functions = (*device.panel, PanelFunction(id=new_id(), name=self.name))
        return _with(home, device, functions, f"{device.name}: {self.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePanelFunction:
    """Type what a lamp shows and how its button is pressed."""

    id: Id
    function_id: Id
    values: Annotated[Values, FieldsOf(PanelFunction, FUNCTION_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        device = home.device(self.id)
        changed = replace(_function(device, self.function_id), **dict(self.values))
        functions = tuple(changed if f.id == changed.id else f for f in device.panel)
        return _with(home, device, functions, f"{device.name}: {changed.name} changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovePanelFunction:
    """Remove a lamp with its button."""

    id: Id
    function_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        device = home.device(self.id)
        gone = _function(device, self.function_id)
        left = tuple(f for f in device.panel if f.id != gone.id)
        return _with(home, device, left, f"{device.name}: {gone.name} removed")


def _function(device: Device, function_id: str) -> PanelFunction:
    found = next((f for f in device.panel if f.id == function_id), None)
    if found is None:
        raise HomeError("this lamp is not there any more")
    return found
