"""Each quantity that a log can carry: its unit, meaning, plausible range and decimals.

Import, forms, lanes and docs read this one table.
"""

from dataclasses import dataclass
from math import inf


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A thing that is measured.

    Parameters
    ----------
    key : str
        Name in records and columns.
    label : str
        Name on a screen.
    unit : str
        Unit in which it is stored.
    meaning : str
        One sentence for forms and docs.
    low, high : float
        Hard range in ``unit``; a value outside is refused.
    decimals : int
        Decimals on a screen.
    is_power : bool
        Whether means over a step, not instants, are what counts.
    of_room, of_machine, of_meter : bool
        Whether a series of it belongs to a room, to an appliance, or to the home's meter.
    of_devices : tuple of str
        Kinds of device of the register that it can belong to; a room then may stand for them.
    states : tuple of str
        Words for no and yes (0 and 1) of a quantity of two states; empty for others.
    """

    key: str
    label: str
    unit: str
    meaning: str
    low: float
    high: float
    decimals: int
    is_power: bool = False
    of_room: bool = False
    of_machine: bool = False
    of_meter: bool = False
    of_devices: tuple[str, ...] = ()
    states: tuple[str, ...] = ()


QUANTITIES: dict[str, Quantity] = {
    q.key: q
    for q in (
        Quantity(
            key="room_temperature",
            label="room temperature",
            unit="°C",
            of_room=True,
            meaning="Air temperature in a room.",
            low=-30.0,
            high=60.0,
            decimals=1,
        ),
        Quantity(
            key="outdoor_temperature",
            label="outdoor temperature",
            unit="°C",
            meaning="Air temperature outside, in the shade.",
            low=-60.0,
            high=60.0,
            decimals=1,
        ),
        Quantity(
            key="relative_humidity",
            label="relative humidity",
            unit="%",
            of_room=True,
            meaning="Relative humidity of a room's air.",
            low=0.0,
            high=100.0,
            decimals=0,
        ),
        Quantity(
            key="outdoor_forecast",
            label="outdoor forecast",
            unit="°C",
            meaning="Outdoor temperature that is expected.",
            low=-60.0,
            high=60.0,
            decimals=1,
        ),
        Quantity(
            key="heat_w",
            label="heat into the room",
            unit="W",
            of_room=True,
            is_power=True,
            meaning="Heat that the room's heater gives off, from a heat meter or a direct heater's power.",
            low=0.0,
            high=100_000.0,
            decimals=0,
        ),
        Quantity(
            key="heat_relative",
            label="heating, unit not known",
            unit="1",
            of_room=True,
            is_power=True,
            meaning="Heating in a unit that nobody can name: it teaches times, never watts or money.",
            low=0.0,
            high=inf,
            decimals=1,
        ),
        Quantity(
            key="grid_import_w",
            label="import from the grid",
            unit="W",
            of_meter=True,
            is_power=True,
            meaning="Electric power that the home's meter takes from the grid.",
            low=0.0,
            high=500_000.0,
            decimals=0,
        ),
        Quantity(
            key="grid_export_w",
            label="export to the grid",
            unit="W",
            of_meter=True,
            is_power=True,
            meaning="Electric power that the home's meter gives to the grid.",
            low=0.0,
            high=500_000.0,
            decimals=0,
        ),
        Quantity(
            key="water_temperature",
            label="water temperature of a tub or tank",
            unit="°C",
            of_machine=True,
            meaning="Temperature of the water that a tub or a tank keeps warm.",
            low=0.0,
            high=100.0,
            decimals=1,
        ),
        Quantity(
            key="outdoor_humidity",
            label="outdoor humidity",
            unit="%",
            meaning="Relative humidity of the air outside.",
            low=0.0,
            high=100.0,
            decimals=0,
        ),
        Quantity(
            key="is_open",
            label="window or door",
            unit="1",
            meaning="1 while a window or door stands open, 0 while it is closed.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("contact",),
            states=("closed", "open"),
        ),
        Quantity(
            key="is_wet",
            label="leak sensor",
            unit="1",
            meaning="1 while a leak sensor feels water, 0 else.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("leak_sensor",),
            states=("dry", "wet"),
        ),
        Quantity(
            key="is_moving",
            label="motion",
            unit="1",
            meaning="1 while a motion sensor says that somebody moves, its own hold included.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("motion",),
            states=("still", "moving"),
        ),
        Quantity(
            key="is_in",
            label="somebody in",
            unit="1",
            of_room=True,
            meaning="1 while somebody is in a room, 0 while it is empty.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("empty", "in use"),
        ),
        Quantity(
            key="is_pressed",
            label="button",
            unit="1",
            meaning="1 when a button is pressed or a switch worked.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("wall_switch", "relay"),
            states=("at rest", "pressed"),
        ),
        Quantity(
            key="is_obeying",
            label="witness",
            unit="1",
            meaning="1 while a witness shows that a device obeys.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("contact", "plug", "relay"),
            states=("no", "yes"),
        ),
        Quantity(
            key="machine_is_on",
            label="vibration or contact of a machine",
            unit="1",
            of_machine=True,
            meaning="1 while a machine's vibration sensor or contact says that it works, 0 else.",
            low=0.0,
            high=1.0,
            decimals=0,
        ),
        Quantity(
            key="electric_w",
            label="electric power",
            unit="W",
            of_machine=True,
            is_power=True,
            meaning="Electric power of a machine at its metering plug.",
            low=0.0,
            high=50_000.0,
            decimals=1,
        ),
    )
}
