"""What a receiver of settings takes: modes, setpoints on its own grid, fan, an end; and what it cannot hold."""

from dataclasses import dataclass, replace
from math import ceil, floor
from typing import Literal

from warmeter.core.home.devices import Device, DeviceKind
from warmeter.core.home.document import Home
from warmeter.core.home.plant import Heater
from warmeter.core.home.timetables import Fan
from warmeter.core.home.zones import Zone
from warmeter.core.units import TemperatureUnit, celsius_from, celsius_to, difference_sign, kelvin_to, temperature_sign

Mode = Literal["heat", "cool", "off", "on", ""]
_ROUNDING = 1e-9


@dataclass(frozen=True, slots=True)
class Grid:
    """Setpoints that a receiver takes: from ``low`` to ``high`` in steps of ``step``, all in ``unit``."""

    unit: TemperatureUnit
    step: float
    low: float
    high: float

    def nearest(self, celsius: float) -> float:
        """Return the setpoint nearest to a temperature, in the receiver's unit, within its limits."""
        on_step = round(celsius_to(celsius, self.unit) / self.step) * self.step
        return min(max(on_step, self.low), self.high)

    def nearest_c(self, celsius: float) -> float:
        """Return the setpoint nearest to a temperature [°C]."""
        return celsius_from(self.nearest(celsius), self.unit)


@dataclass(frozen=True, slots=True, kw_only=True)
class Receiver:
    """A device, or a heater's own controls, that a setting is typed into.

    ``grid`` is None where it holds no temperature; ``has_modes`` where heat, cold and off are chosen on it, one at a
    time; ``ends_itself`` where it can hold the end of a run without being told again.
    """

    id: str
    name: str
    grid: Grid | None
    has_modes: bool = False
    has_fan: bool = False
    ends_itself: bool = False
    answers: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Typed:
    """What is typed into a receiver, field by field, and what of the setting it cannot hold, in sentences.

    ``setpoint`` is on the receiver's grid, in its unit; None where none is typed.
    """

    receiver: Receiver
    mode: Mode = ""
    setpoint: float | None = None
    fan: Fan | None = None
    lost: tuple[str, ...] = ()


# Usual lowest and highest setpoints [°C]; the step is the heater's own where the receiver does not count in whole degrees.
_LIMITS_C: dict[DeviceKind, tuple[float, float]] = {
    "thermostat": (5.0, 35.0),
    "radiator_valve": (5.0, 30.0),
    "controller": (5.0, 35.0),
}
_REMOTE_C = (16.0, 30.0)
_OWN_CONTROLS_C = (5.0, 35.0)
USUAL_STEP_K = 0.5


def grid_of(limits_c: tuple[float, float], step_k: float, unit: TemperatureUnit) -> Grid:
    """Return a grid of so many kelvins [K], in a °F home of whole °F, within limits [°C] rounded inwards."""
    step = step_k if unit == "C" else float(max(1, round(kelvin_to(step_k, unit))))
    low, high = (celsius_to(limit, unit) for limit in limits_c)
    return Grid(unit, step, ceil(low / step - _ROUNDING) * step, floor(high / step + _ROUNDING) * step)


def _remote_grid(unit: TemperatureUnit) -> Grid:
    """Return the grid of a unit's remote: whole degrees of its own unit."""
    return replace(grid_of(_REMOTE_C, USUAL_STEP_K, unit), step=1.0)


def receiver_of_heater(home: Home, heater: Heater) -> Receiver:
    """Return what a heater's settings are typed into: the device in service that drives it, else its own controls.

    Where that only switches, and the home has a controller, the controller holds the temperature and switches it.
    """
    driving = next((d for d in home.devices if d.drives_id == heater.id and d.is_in_service), None)
    if driving is not None:
        receiver = receiver_of_device(home, driving, heater)
        controller = next((d for d in home.devices if d.kind == "controller" and d.is_in_service), None)
        if receiver.grid is None and controller is not None:
            held = receiver_of_device(home, controller, heater)
            return replace(held, name=f"{controller.name}, for {driving.name}")
        return receiver
    is_remote = heater.kind == "split_unit"
    unit = home.temperature_unit
    grid = _remote_grid(unit) if is_remote else grid_of(_OWN_CONTROLS_C, heater.step_k, unit)
    return Receiver(id=heater.id, name=heater.name, grid=grid, has_modes=is_remote, has_fan=is_remote)


def receiver_of_device(home: Home, device: Device, heater: Heater | None = None) -> Receiver:
    """Return a device as a receiver; ``heater`` is what it drives, if anything."""
    limits = _LIMITS_C.get(device.kind)
    is_remote = device.kind == "infrared_sender"
    grid = None
    if is_remote:
        grid = _remote_grid(home.temperature_unit)
    elif limits is not None:
        grid = grid_of(limits, USUAL_STEP_K if heater is None else heater.step_k, home.temperature_unit)
    return Receiver(
        id=device.id,
        name=device.name,
        grid=grid,
        has_modes=is_remote or (grid is not None and heater is not None and heater.may_cool),
        has_fan=is_remote or (grid is not None and heater is not None and heater.may_cool),
        ends_itself=device.kind in ("plug", "relay", "pump_switch", "water_valve"),
        answers=device.is_two_way,
    )


def receivers_of_zone(home: Home, zone: Zone) -> list[Receiver]:
    """Return what a zone's setpoint is typed into: the device that owns its timetable, else one for each heater."""
    owner = next((d for d in home.devices if d.id == zone.owner_id and d.is_in_service), None)
    following = [h for h in home.heaters if h.id in home.following(zone)]
    if owner is not None:
        own = next((h for h in following if h.id == owner.drives_id), following[0] if len(following) == 1 else None)
        return [receiver_of_device(home, owner, own)]
    found = {(r.id, r.name): r for r in (receiver_of_heater(home, h) for h in following)}
    return list(found.values())


def typed_setpoint(
    receiver: Receiver, heating_c: float | None, cooling_c: float | None = None, fan: Fan | None = None
) -> Typed:
    """Return the fields for a setpoint [°C], and what of it is lost on this receiver.

    With both a heating setpoint and a cooling limit a receiver that has modes holds the one that heats.
    """
    asked_c = cooling_c if heating_c is None else heating_c
    if receiver.grid is None or asked_c is None:
        return Typed(
            receiver=receiver,
            lost=(
                "It knows on and off only and holds no temperature: the setpoint is lost. Type it into the thermostat or controller that switches it.",
            ),
        )
    grid, lost = receiver.grid, []
    unit, setpoint = temperature_sign(grid.unit), grid.nearest(asked_c)
    asked = celsius_to(asked_c, grid.unit)
    if not grid.low - grid.step / 2 <= asked <= grid.high + grid.step / 2:
        beyond, words = abs(setpoint - asked), "warmer" if setpoint > asked else "cooler"
        lost.append(
            f"Asked is {asked:.4g} {unit}; it takes {grid.low:g} to {grid.high:g} {unit}: the room is held "
            f"{beyond:.3g} {difference_sign(grid.unit)} {words} than asked."
        )
    is_heating = heating_c is not None
    if is_heating and cooling_c is not None and receiver.has_modes:
        limit = grid.nearest(cooling_c)
        lost.append(
            f"It holds one mode at a time: the cooling limit of {limit:g} {unit} is lost while it heats. In the warm season type "
            f"mode cool, setpoint {limit:g} {unit} instead."
        )
    if not is_heating and not receiver.has_modes:
        lost.append("It only heats: the cooling limit is lost.")
    if fan not in (None, "auto") and not receiver.has_fan:
        lost.append(f"It has no fan: “{fan}” is lost.")
    return Typed(
        receiver=receiver,
        mode=("heat" if is_heating else "cool") if receiver.has_modes else "",
        setpoint=setpoint,
        fan=fan if receiver.has_fan else None,
        lost=tuple(lost),
    )


def typed_switch(receiver: Receiver, *, is_on: bool, for_s: int | None = None) -> Typed:
    """Return the fields for on or off, for a run of ``for_s`` with its end [s], and what of it is lost on this receiver."""
    lost = []
    if for_s is not None and not receiver.ends_itself:
        lost.append("It cannot hold an end itself: if whatever sends the end fails, it runs on. The hard stop is lost.")
    if receiver.has_modes and not receiver.answers:
        lost.append(
            "Nothing comes back from it: send its own “off” or “on”, never a toggle, and again a minute later. Whether it obeyed is lost."
        )
    if is_on and receiver.has_modes:
        lost.append("“On” takes up the mode and setpoint that it last had: send mode and setpoint with it.")
    return Typed(receiver=receiver, mode="on" if is_on else "off", lost=tuple(lost))
