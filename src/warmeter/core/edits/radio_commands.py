"""Commands on radio sensors: one that was heard becomes a device, or a device is heard under another id."""

from dataclasses import dataclass, replace
from datetime import date

from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import swapped
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Identity
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name, Text, Word


@dataclass(frozen=True, slots=True, kw_only=True)
class AdoptSender:
    """A sender taken for a device: one of the register, or a new air sensor in a room under a name of its own."""

    address: Name
    channel: Word = ""
    device_id: Word = ""
    room_id: Word = ""
    name: Word = ""
    since: date | None = None
    reason: Text = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with the device heard under that id.

        Raises
        ------
        HomeError
            If another device in service is heard under it.
        """
        other = next((d for d in home.devices if d.address == self.address and d.id != self.device_id), None)
        if other is not None and other.is_in_service:
            raise HomeError(f"{other.name} is heard under {self.address} already")
        grown = home
        if not self.device_id:
            grown = floor_plan_edits.with_device(home, "air_sensor", self.room_id or None)
        device = grown.device(self.device_id) if self.device_id else grown.devices[-1]
        identities = device.identities
        if device.address != self.address:  # else a later capture of the same sensor
            identities = (*identities, Identity(address=self.address, since=self.since, reason=self.reason))
        changed = replace(
            device, name=self.name or device.name, channel=self.channel or device.channel, identities=identities
        )
        words = f"{changed.name} heard as {self.address}"
        return Edit(replace(grown, devices=swapped(grown.devices, changed)), words, changed.id)
