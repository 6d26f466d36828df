"""Rooms as people write them down on a walk, one a line, read into the command that adds them.

"Kitchen 4.2 x 3.6, 2 outside walls, radiator 1200 W, thermostat"; a line that ends with a colon names the storey of
those below it.
"""

import re
from dataclasses import replace

from warmeter.core.edits.room_lines import AddRooms, RoomLine
from warmeter.core.home.device_kinds import DEVICE_LABEL
from warmeter.core.home.devices import DeviceKind
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.presets import HEATER_LABEL
from warmeter.core.units import LengthUnit, Units
from warmeter.web.form_reader import FormError, Texts, read_form
from warmeter.web.typed import parse_quantity, tidy

_LENGTH = r"\d[\d.,]*(?:\s*(?:mm|cm|m|ft|feet|'|\")(?:\s*\d[\d.,]*\s*(?:in|inches|\")?)?)?"
_SIZE = re.compile(rf"(?P<name>.+?)[ :]+(?P<width>{_LENGTH})\s*(?:x|×|\*|by)\s*(?P<depth>{_LENGTH})", re.IGNORECASE)
_AREA = re.compile(r"(?P<name>.+?)[ :]+(?P<area>\d[\d.,]*\s*(?:m²|m2|sqm|sq m|ft²|ft2|sqft|sq ft))", re.IGNORECASE)
_SPLIT = re.compile(r";|,\s+|,(?=[^\d\s])")
_WALLS = re.compile(r"(?P<count>\d|no|one|two|three|four) (?:outside|outer|outdoor|exterior|external) walls?")
_POWER = re.compile(r"(?P<what>.*?)\s*(?P<power>\d[\d.,]*\s*(?:kw|w|btu/h|btuh))|(?P<all>.+)")
_COUNTS = {"no": 0, "one": 1, "two": 2, "three": 3, "four": 4}
_HEATERS: dict[str, HeaterKind] = {
    **{label: kind for kind, label in HEATER_LABEL.items()},
    **dict.fromkeys(("electric heater", "panel heater", "electric panel", "convector"), "electric_panel"),
    **dict.fromkeys(("radiators", "towel rail"), "radiator"),
    **dict.fromkeys(("warm floor", "floor heating", "heated floor", "underfloor"), "warm_floor"),
    **dict.fromkeys(("fan coil", "duct", "air duct"), "fan_unit"),
    **dict.fromkeys(("split", "air conditioner", "heat pump unit"), "split_unit"),
}
_DEVICES: dict[str, DeviceKind] = {
    **{label: kind for kind, label in DEVICE_LABEL.items()},
    **dict.fromkeys(("temperature sensor", "thermometer", "sensor"), "air_sensor"),
    **dict.fromkeys(("motion",), "motion"),
    **dict.fromkeys(("window contact", "door contact"), "contact"),
    **dict.fromkeys(("valve", "smart valve"), "radiator_valve"),
    **dict.fromkeys(("plug",), "plug"),
}
_OUTDOORS = ("outdoors", "outside", "in the open", "garden", "terrace")
_NOT_HEATED = ("not heated", "unheated", "no heating", "cold")
EXAMPLES: dict[LengthUnit, str] = {
    "m": "Kitchen 4.2 x 3.6, 2 outside walls, radiator",
    "ft": "Kitchen 14 x 12, 2 outside walls, radiator",
}


def rooms_typed(texts: Texts, unit: LengthUnit) -> AddRooms:
    """Return the command that a text box of rooms means.

    Raises
    ------
    FormError
        With the line and what is not understood there.
    """
    found, storey = [], ""
    for number, line in enumerate(tidy(texts.get("lines", "")).splitlines(), 1):
        text = line.strip()
        if not text:
            continue
        if text.endswith(":"):
            storey = text.strip("#: ")
            continue
        fields, devices = _said_by(text, number, unit)
        try:
            found.append(replace(read_form(RoomLine, fields | {"storey": storey}), devices=tuple(devices)))
        except FormError as error:
            raise FormError({"lines": f"Line {number}: {'; '.join(error.errors.values())}"}) from error
    if not found:
        raise FormError({"lines": f"Write a room a line, such as {EXAMPLES[unit]}"})
    return AddRooms(rooms=tuple(found))


def _said_by(text: str, number: int, unit: LengthUnit) -> tuple[dict[str, str], list[DeviceKind]]:
    """Return what a line says, as fields of a form in metres and watts, and the devices it names."""
    devices: list[DeviceKind] = []
    head, *rest = [part.strip() for part in _SPLIT.split(text) if part.strip()]
    size, area = _SIZE.fullmatch(head), _AREA.fullmatch(head)
    try:
        if size is not None:
            fields = {"name": size["name"]} | {
                f"{side}_m": f"{_metres(size[side], unit):.4f}" for side in ("width", "depth")
            }
        elif area is not None:
            fields = {"name": area["name"], "area_m2": f"{parse_quantity(area['area'], 'm²'):.4f}"}
        else:
            raise ValueError("write the name and the size, such as Kitchen 4.2 x 3.6 or Kitchen 15 m²")
        for part in rest:
            if part.lower() in _DEVICES:
                devices.append(_DEVICES[part.lower()])
            else:
                _add(fields, part.lower(), unit)
    except ValueError as error:
        raise FormError({"lines": f"Line {number}, “{text[:60]}”: {error}"}) from error
    return fields, devices


def _metres(text: str, unit: LengthUnit) -> float:
    """Return a length; a bare number is in the home's unit."""
    return parse_quantity(text, "m", Units(length=unit))


def _add(fields: dict[str, str], part: str, unit: LengthUnit) -> None:
    """Add what one part of a line says; ``ValueError`` where nobody can tell."""
    walls = _WALLS.fullmatch(part)
    powered = _POWER.fullmatch(part)
    what = (powered["what"] or powered["all"] or "").strip() if powered else part
    if walls is not None:
        fields["outside_walls"] = str(_COUNTS.get(walls["count"], walls["count"]))
    elif part in _NOT_HEATED:
        fields["condition"] = "unheated"
    elif part in _OUTDOORS:
        fields["condition"] = "outdoors"
    elif part in ("roof", "under the roof", "roof above"):
        fields["has_roof"] = "on"
    elif part in ("ground", "on the ground", "ground below", "ground floor"):
        fields["has_ground_floor"] = "on"
    elif what in _HEATERS:
        fields["heater"] = _HEATERS[what]
        if powered is not None and powered["power"]:
            fields["heater_w"] = f"{parse_quantity(powered['power'], 'W'):.1f}"
    elif part.startswith("height") or part.endswith(("high", "height")):
        fields["height_m"] = f"{_metres(part.replace('height', '').replace('high', ''), unit):.4f}"
    else:
        raise ValueError(f"“{part}” is not understood; write walls, a heater, a device or a height")
