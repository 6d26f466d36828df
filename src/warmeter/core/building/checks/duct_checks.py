"""Checks of ducts: pressure and air within the plant's limits, how much vent area is shut, where the thermostat is."""

from collections.abc import Iterator

from warmeter.core.ducts.duct_air import duct_air, share_shut
from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.ducts import DuctSystem
from warmeter.core.sentence import Measure, sentence

RULES = {
    "pressure too high": "With vents as they are the fan's pressure stays within the limit of furnace and coil.",
    "too little air": "With vents as they are enough air goes over burner and coil.",
    "too many vents shut": "Of all vent area no more is shut than was allowed.",
    "thermostat without a vent": "The room of the thermostat has a vent, so that it feels what it asks for.",
}


def duct_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about the ducts of a home."""
    for system in home.ducts:
        if system.vents:
            yield from _limits(system)
        room_id = system.thermostat_room_id
        if room_id is not None and system.vents and room_id not in system.room_ids:
            yield Finding(
                kind="thermostat without a vent",
                severity="warning",
                place=system.id,
                sentence=f"The thermostat of {system.name} stands in {home.room(room_id).name}, which has no vent.",
                fix="Let sensors in rooms with vents lead, or move the thermostat.",
                about=(system.id, room_id),
            )


def _limits(system: DuctSystem) -> Iterator[Finding]:
    found, shut = duct_air(system), share_shut(system)
    if "static_high" in found.flags:
        yield Finding(
            kind="pressure too high",
            severity="danger",
            place=system.id,
            sentence=sentence(
                "The fan of {} makes {}; {} is the most.",
                system.name,
                Measure(found.static_fan_pa, "Pa", 0),
                Measure(system.static_most_pa, "Pa", 0),
            ),
            fix="Open vents, change the filter, and let a licensed technician measure.",
            about=(system.id,),
        )
    if "flow_low" in found.flags:
        yield Finding(
            kind="too little air",
            severity="danger",
            place=system.id,
            sentence=sentence(
                "{} moves {}; burner and coil need {}.",
                system.name,
                Measure(found.flow_m3_h, "m³/h", 0),
                Measure(system.flow_least_m3_h, "m³/h", 0),
            ),
            fix="Open vents, and let a licensed technician measure.",
            about=(system.id,),
        )
    if shut > system.most_share_shut + 1e-9:
        yield Finding(
            kind="too many vents shut",
            severity="warning",
            place=system.id,
            sentence=f"{100 * shut:.0f} % of the vent area of {system.name} is shut; {100 * system.most_share_shut:.0f} % is the most.",
            fix="Open those that are shut furthest.",
            about=(system.id,),
        )
