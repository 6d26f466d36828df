"""A window and a heater work against each other: which room, what heats it, and how soon that counts."""

from dataclasses import dataclass

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.floor_plan_edits import with_device
from warmeter.core.edits.room_lines import RoomLine
from warmeter.core.home.document import Home
from warmeter.core.home.part import Name
from warmeter.core.home.plant import HeaterKind
from warmeter.core.nuisances.growing import USUAL_AREA_M2, HeatW, Price, with_named_room, with_price, with_started_rule


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowAndHeater:
    """A room whose window is opened while it is heated, its heater's rated heat, and the price where that is known."""

    room: Name
    heater: HeaterKind = "electric_panel"
    heater_w: HeatW
    has_contact: bool = True
    price: Price | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the room, its heater, sensor and contact, and the rule that sets it idle meanwhile."""
        line = RoomLine(
            name=self.room,
            area_m2=USUAL_AREA_M2,
            outside_walls=1,
            heater=self.heater,
            heater_w=self.heater_w,
            devices=("air_sensor",),
        )
        grown, room = with_named_room(with_price(home, self.price), line)
        if self.has_contact and not any(d.kind == "contact" for d in grown.devices_in(room.id)):
            grown = with_device(grown, "contact", room.id)
        contact = next((d for d in grown.devices_in(room.id) if d.kind == "contact"), None)
        if self.has_contact and contact is not None:
            grown, rule = with_started_rule(grown, "opening", "usual", contact.id)
        else:
            grown, rule = with_started_rule(grown, "drop", "usual", room.id)
        return Edit(grown, f"{room.name} added, with a rule for its window", rule.id)
