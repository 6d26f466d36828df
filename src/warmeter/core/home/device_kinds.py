"""What is usual of each kind of device: the defaults of a new one, and what can be asked of it at all."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from warmeter.core.home.devices import ChainKind, DeviceKind, OwnTimetable, Power


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceTraits:
    """What is usual of a kind of device.

    ``powers`` are the ways in which such devices are fed, the commonest first; ``quantities`` what they measure;
    ``own_timetable`` what they come with; ``drives_heaters`` whether they can work a heater, ``is_commanded`` whether
    anything can be asked of them; ``notices`` and ``answers`` where they can stand in alarm paths.
    """

    label: str
    powers: tuple[Power, ...] = ("mains",)
    quantities: tuple[str, ...] = ()
    own_timetable: OwnTimetable = "none"
    drives_heaters: bool = False
    is_commanded: bool = False
    is_two_way: bool = True
    works_without_internet: bool = True
    works_without_controller: bool = False
    has_hold: bool = False
    has_limit: bool = False
    cuts_power: bool = False
    notices: tuple[ChainKind, ...] = ()
    answers: tuple[ChainKind, ...] = ()

    @property
    def keeps_timetable(self) -> bool:
        """Whether such a device can hold a timetable of its own."""
        return self.own_timetable != "none"

    @property
    def measures(self) -> bool:
        """Whether such a device can show what another did."""
        return bool(self.quantities) or self.has_hold


_BATTERY: tuple[Power, ...] = ("battery", "mains_and_battery", "mains", "wired_bus")
_MAINS: tuple[Power, ...] = ("mains", "mains_and_battery", "wired_bus")
_EITHER: tuple[Power, ...] = ("mains", "battery", "mains_and_battery", "wired_bus")
DEVICE_TRAITS: Mapping[DeviceKind, DeviceTraits] = MappingProxyType(
    {
        "thermostat": DeviceTraits(
            label="thermostat",
            powers=_EITHER,
            quantities=("room_temperature",),
            own_timetable="off",
            drives_heaters=True,
            is_commanded=True,
            works_without_controller=True,
            has_limit=True,
            notices=("frost", "heat"),
            answers=("frost", "heat"),
        ),
        "radiator_valve": DeviceTraits(
            label="radiator valve",
            powers=("battery", "mains", "wired_bus"),
            own_timetable="off",
            drives_heaters=True,
            is_commanded=True,
            works_without_controller=True,
            has_limit=True,
            notices=("frost",),
            answers=("frost",),
        ),
        "air_sensor": DeviceTraits(
            label="air sensor", powers=_BATTERY, quantities=("room_temperature",), notices=("frost", "heat")
        ),
        "floor_probe": DeviceTraits(label="floor probe", powers=("wired_bus", "mains", "battery"), notices=("heat",)),
        "contact": DeviceTraits(label="contact", powers=_BATTERY, quantities=("is_open",)),
        "motion": DeviceTraits(label="motion sensor", powers=_BATTERY, quantities=("is_moving",), has_hold=True),
        "plug": DeviceTraits(
            label="metering plug",
            quantities=("electric_w",),
            own_timetable="off",
            drives_heaters=True,
            is_commanded=True,
            cuts_power=True,
            answers=("leak", "frost", "heat"),
        ),
        "relay": DeviceTraits(
            label="relay",
            powers=_MAINS,
            drives_heaters=True,
            is_commanded=True,
            cuts_power=True,
            answers=("leak", "frost", "heat"),
        ),
        "infrared_sender": DeviceTraits(
            label="infra-red sender",
            powers=_EITHER,
            drives_heaters=True,
            is_commanded=True,
            is_two_way=False,
            works_without_internet=False,
            answers=("frost", "heat"),
        ),
        "blind_motor": DeviceTraits(
            label="blind motor",
            powers=_EITHER,
            own_timetable="off",
            is_commanded=True,
            is_two_way=False,
            answers=("heat",),
        ),
        "leak_sensor": DeviceTraits(label="leak sensor", powers=_BATTERY, quantities=("is_wet",), notices=("leak",)),
        "water_valve": DeviceTraits(label="water valve", powers=_EITHER, is_commanded=True, answers=("leak", "frost")),
        "meter": DeviceTraits(
            label="meter", powers=_EITHER, quantities=("electric_w",), works_without_controller=True, notices=("leak",)
        ),
        "smoke_alarm": DeviceTraits(
            label="smoke alarm", powers=_BATTERY, works_without_controller=True, notices=("heat",), answers=("heat",)
        ),
        "lamp_sensor": DeviceTraits(label="lamp sensor", powers=_EITHER, quantities=("is_lit",)),
        "pump_switch": DeviceTraits(
            label="pump switch",
            own_timetable="off",
            drives_heaters=True,
            is_commanded=True,
            cuts_power=True,
            answers=("leak", "frost"),
        ),
        "lamp_switch": DeviceTraits(label="commanded lamp", is_commanded=True, answers=("leak", "frost", "heat")),
        "wall_switch": DeviceTraits(
            label="wall switch", powers=_EITHER, works_without_controller=True, cuts_power=True
        ),
        "controller": DeviceTraits(
            label="controller",
            powers=_MAINS,
            own_timetable="off",
            drives_heaters=True,
            is_commanded=True,
            works_without_controller=True,
            has_limit=True,
            answers=("leak", "frost", "heat"),
        ),
        "telephone": DeviceTraits(
            label="telephone", powers=("battery",), quantities=("is_home",), works_without_internet=False
        ),
        "mattress": DeviceTraits(label="mattress sensor", powers=_EITHER, quantities=("is_in_bed",)),
        "presence_sensor": DeviceTraits(label="presence sensor", powers=_EITHER, quantities=("is_in",), has_hold=True),
    }
)
DEVICE_LABEL: Mapping[DeviceKind, str] = MappingProxyType({kind: t.label for kind, t in DEVICE_TRAITS.items()})
