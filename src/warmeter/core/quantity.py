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
    of_room, of_machine, of_meter, of_home, of_person : bool
        Whether a series of it belongs to a room, to an appliance, to the home's meter, to the home as a whole, or to a
        person.
    of_devices : tuple of str
        Kinds of device of the register that it can belong to; a room then may stand for them.
    of_any_device : bool
        Whether it can belong to a device of every kind.
    states : tuple of str
        Words of a quantity of states, their numbers from 0 on; empty for others.
    is_held : bool
        Whether it is told when it changes, and a value holds until the next.
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
    of_home: bool = False
    of_person: bool = False
    of_devices: tuple[str, ...] = ()
    of_any_device: bool = False
    states: tuple[str, ...] = ()
    is_held: bool = False

    @property
    def needs_subject(self) -> bool:
        """Whether a series of it belongs to a room, an appliance or a device; else it is the meter's, the home's or outdoors."""
        return bool(self.of_room or self.of_machine or self.of_devices or self.of_any_device) and not self.of_home

    def is_of_device(self, kind: str) -> bool:
        """Return whether a series of it can belong to a device of a kind."""
        return self.of_any_device or kind in self.of_devices

    @property
    def whole(self) -> str:
        """What a series of it without a subject belongs to, in words."""
        return "the meter" if self.of_meter else "the home" if self.of_home else "outdoors"

    @property
    def is_two_states(self) -> bool:
        """Whether it is yes or no."""
        return self.high == 1.0


# What a timetable and a warm-up go on from; other logs do not move what counts as now for them.
CLIMATE = ("room_temperature", "outdoor_temperature", "heat_w", "heat_relative")
# What a calibration, a difference of temperature, sets right: the other readings of a device are no temperatures.
CALIBRATED = ("room_temperature", "outdoor_temperature", "water_temperature", "floor_temperature", "raw_reading")
# What is known of times to come: no reading of the home.
EXPECTED = ("outdoor_forecast", "sun_forecast_w", "market_price")
QUANTITIES: dict[str, Quantity] = {
    q.key: q
    for q in (
        Quantity(
            key="room_temperature",
            label="room temperature",
            unit="°C",
            of_room=True,
            of_devices=("radiator_valve",),
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
            is_held=True,
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
            is_held=True,
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
            is_held=True,
        ),
        Quantity(
            key="is_in",
            label="somebody in",
            unit="1",
            of_room=True,
            of_devices=("presence_sensor",),
            meaning="1 while somebody is in a room, 0 while it is empty.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("empty", "in use"),
            is_held=True,
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
            is_held=True,
        ),
        Quantity(
            key="is_lit",
            label="lamp of a panel",
            unit="1",
            meaning="1 while a lamp of a panel is lit, 0 while it is dark, as whoever watches it tells.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("lamp_sensor",),
            states=("dark", "lit"),
            is_held=True,
        ),
        Quantity(
            key="is_obeying",
            label="witness",
            unit="1",
            meaning="1 while a witness shows that a device obeys.",
            low=0.0,
            high=1.0,
            decimals=0,
            of_devices=("contact", "plug", "relay", "pump_switch"),
            states=("no", "yes"),
            is_held=True,
        ),
        Quantity(
            key="machine_is_on",
            label="vibration or contact of an appliance",
            unit="1",
            of_machine=True,
            meaning="1 while an appliance's vibration sensor or contact says that it works, 0 else.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("off", "on"),
            is_held=True,
        ),
        Quantity(
            key="electric_w",
            label="electric power",
            unit="W",
            of_machine=True,
            is_power=True,
            meaning="Electric power of an appliance at its metering plug.",
            low=0.0,
            high=50_000.0,
            decimals=1,
        ),
        Quantity(
            key="setpoint",
            label="setpoint that a device reports",
            unit="°C",
            of_room=True,
            of_devices=("thermostat", "radiator_valve", "controller"),
            meaning="Temperature at which a thermostat or valve says that it aims.",
            low=0.0,
            high=60.0,
            decimals=1,
            is_held=True,
        ),
        Quantity(
            key="valve_opening",
            label="valve opening",
            unit="%",
            of_room=True,
            of_devices=("radiator_valve", "relay", "thermostat"),
            meaning="How far a valve stands open, 100 wide open; it is no heat and no temperature.",
            low=0.0,
            high=100.0,
            decimals=0,
            is_held=True,
        ),
        Quantity(
            key="blind_position",
            label="blind down",
            unit="%",
            of_devices=("blind_motor",),
            meaning="How far a blind is down, 0 open and 100 wholly down.",
            low=0.0,
            high=100.0,
            decimals=0,
            is_held=True,
        ),
        Quantity(
            key="heating_state",
            label="heating at work",
            unit="1",
            of_room=True,
            of_devices=("thermostat", "radiator_valve", "relay", "controller"),
            meaning="What a thermostat says that its heater or cooler does: idle, heating, cooling, drying, fan, defrosting.",
            low=0.0,
            high=5.0,
            decimals=0,
            states=("idle", "heating", "cooling", "drying", "fan", "defrosting"),
            is_held=True,
        ),
        Quantity(
            key="device_mode",
            label="mode of a device",
            unit="1",
            of_room=True,
            of_devices=("thermostat", "radiator_valve", "controller", "infrared_sender"),
            meaning="The mode in which a device stands: off, heat, cool, automatic, dry, fan.",
            low=0.0,
            high=5.0,
            decimals=0,
            states=("off", "heat", "cool", "automatic", "dry", "fan"),
            is_held=True,
        ),
        Quantity(
            key="is_home",
            label="at home",
            unit="1",
            of_home=True,
            of_person=True,
            of_devices=("telephone",),
            meaning="1 while a person, a telephone or somebody is at home, 0 while away.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("away", "home"),
            is_held=True,
        ),
        Quantity(
            key="is_in_bed",
            label="somebody in bed",
            unit="1",
            of_devices=("mattress",),
            meaning="1 while a mattress feels somebody, 0 while it is empty.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("empty", "in bed"),
            is_held=True,
        ),
        Quantity(
            key="distance_m",
            label="distance from home",
            unit="m",
            of_devices=("telephone",),
            meaning="How far a telephone is from home, as the crow flies.",
            low=0.0,
            high=20_100_000.0,
            decimals=0,
        ),
        Quantity(
            key="floor_temperature",
            label="floor temperature",
            unit="°C",
            of_room=True,
            of_devices=("floor_probe", "thermostat"),
            meaning="Temperature of a heated floor at its probe.",
            low=-30.0,
            high=80.0,
            decimals=1,
        ),
        Quantity(
            key="light",
            label="light",
            unit="lx",
            of_room=True,
            of_devices=("motion", "air_sensor", "lamp_switch"),
            meaning="Light that falls on a sensor.",
            low=0.0,
            high=200_000.0,
            decimals=0,
        ),
        Quantity(
            key="sun_w_m2",
            label="sun on the level",
            unit="W/m²",
            meaning="Irradiance of sun and sky on a level plane outdoors.",
            low=0.0,
            high=1600.0,
            decimals=0,
        ),
        Quantity(
            key="co2",
            label="CO₂",
            unit="ppm",
            of_room=True,
            of_devices=("air_sensor", "thermostat"),
            meaning="Carbon dioxide in a room's air.",
            low=200.0,
            high=40_000.0,
            decimals=0,
        ),
        Quantity(
            key="raw_reading",
            label="raw reading of a converter",
            unit="1",
            of_devices=("air_sensor", "thermostat", "floor_probe", "controller"),
            meaning="Counts, volts or ohms before they are a temperature.",
            low=0.0,
            high=1e9,
            decimals=0,
        ),
        Quantity(
            key="water_flow",
            label="flow of water",
            unit="l/min",
            of_home=True,
            of_devices=("meter", "water_valve", "pump_switch"),
            meaning="Water that flows through a pipe.",
            low=0.0,
            high=10_000.0,
            decimals=1,
        ),
        Quantity(
            key="pressure",
            label="pressure",
            unit="hPa",
            of_home=True,
            of_devices=("meter", "water_valve", "pump_switch", "air_sensor", "controller"),
            meaning="Pressure of air, or of water in a pipe.",
            low=0.0,
            high=30_000.0,
            decimals=0,
        ),
        Quantity(
            key="sun_power_w",
            label="power of solar panels",
            unit="W",
            of_home=True,
            is_power=True,
            meaning="Electric power that the home's panels make.",
            low=0.0,
            high=500_000.0,
            decimals=0,
        ),
        Quantity(
            key="sun_forecast_w",
            label="forecast of solar panels",
            unit="W",
            of_home=True,
            is_power=True,
            meaning="Electric power that the home's panels are expected to make.",
            low=0.0,
            high=500_000.0,
            decimals=0,
        ),
        Quantity(
            key="market_price",
            label="market price of electricity",
            unit="/kWh",
            of_home=True,
            meaning="What the market asks for a kWh in an interval, in the home's currency; below nought it pays.",
            low=-100.0,
            high=100.0,
            decimals=4,
        ),
        Quantity(
            key="battery",
            label="battery",
            unit="%",
            of_any_device=True,
            meaning="How full a device's battery is.",
            low=0.0,
            high=100.0,
            decimals=0,
            is_held=True,
        ),
        Quantity(
            key="is_on",
            label="switch",
            unit="1",
            of_any_device=True,
            meaning="1 while a switch, a valve or a lamp says that it is on or open, 0 while it is off or shut.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("off", "on"),
            is_held=True,
        ),
        Quantity(
            key="is_reachable",
            label="link to a device",
            unit="1",
            of_any_device=True,
            meaning="1 while a device says, or its link says of it, that it can be reached, 0 while it cannot.",
            low=0.0,
            high=1.0,
            decimals=0,
            states=("gone", "there"),
            is_held=True,
        ),
        Quantity(
            key="radio_strength",
            label="radio strength",
            unit="dBm",
            of_any_device=True,
            meaning="How strongly a device's radio is received; nearer to nought is stronger.",
            low=-130.0,
            high=20.0,
            decimals=0,
            is_held=True,
        ),
    )
}
