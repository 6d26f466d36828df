"""What rules of a home can look at, by name, with the values at which conditions on it usually stand."""

from dataclasses import dataclass, replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.of_signal import OfSignal
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.document import Home
from warmeter.core.quantity import QUANTITIES

# Where a comparison first stands, and its hysteresis: three times what usual sensors of it show as noise.
USUAL: dict[str, tuple[float, float, float]] = {
    # quantity: (value, hysteresis, change within ten minutes)
    "room_temperature": (20.0, 0.5, 1.0),
    "outdoor_temperature": (5.0, 1.0, 2.0),
    "relative_humidity": (60.0, 5.0, 5.0),
    "outdoor_humidity": (80.0, 5.0, 10.0),
    "absolute_humidity": (9.0, 0.5, 1.0),
    "dew_point": (12.0, 0.5, 1.0),
    "electric_w": (10.0, 2.0, 100.0),
    "blind_position": (80.0, 2.0, 20.0),
    "water_flow": (2.0, 1.0, 2.0),
    "pressure": (2500.0, 100.0, 200.0),
    "sun_w_m2": (300.0, 100.0, 200.0),
    "water_temperature": (38.0, 1.0, 1.0),
    "grid_import_w": (3000.0, 300.0, 1000.0),
    "grid_export_w": (1000.0, 200.0, 500.0),
    "price": (0.4, 0.02, 0.1),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SignalChoice:
    """A signal with its name, its unit (a key of what forms read: °C, %, W, g/m3, price, or "" for two states)."""

    signal: Signal
    name: str
    unit: str
    states: tuple[str, ...] = ()


DERIVED = {"absolute_humidity": ("absolute humidity", "g/m3"), "dew_point": ("dew point", "°C")}
_ROOM = ("room_temperature", "relative_humidity", "is_in")
_MACHINE = ("electric_w", "water_temperature", "machine_is_on")


def offered(home: Home) -> list[SignalChoice]:
    """Return every signal that rules of a home can look at, rooms first."""
    found: list[SignalChoice] = []
    for room in home.rooms:
        for key in _ROOM:
            found.append(_of(Signal(quantity=key, subject_id=room.id), room.name))
        for key, (label, unit) in DERIVED.items():
            found.append(
                SignalChoice(signal=Signal(quantity=key, subject_id=room.id), name=f"{room.name} {label}", unit=unit)
            )
    for device in home.devices:
        if device.is_in_service:
            keys = [q.key for q in QUANTITIES.values() if q.is_two_states and device.kind in q.of_devices]
            keys += [q for q in ("room_temperature", "relative_humidity") if q in device.measures]
            keys += ["blind_position"] if device.kind == "blind_motor" else []
            keys += [q for q in ("water_flow", "pressure") if q in device.measures]
            found += [_of(Signal(quantity=key, subject_id=device.id), device.name) for key in keys]
    for machine in home.appliances:
        found += [_of(Signal(quantity=key, subject_id=machine.id), machine.name) for key in _MACHINE]
    if home.people:
        found.append(_of(Signal(quantity="is_home"), "the household"))
    found += [_of(Signal(quantity="is_home", subject_id=person.id), person.name) for person in home.people]
    for key in ("outdoor_temperature", "outdoor_humidity", "sun_w_m2", "grid_import_w", "grid_export_w"):
        found.append(_of(Signal(quantity=key), ""))
    for key, (label, unit) in DERIVED.items():
        found.append(SignalChoice(signal=Signal(quantity=key), name=f"outdoor {label}", unit=unit))
    if home.newest_tariff is not None:
        found.append(SignalChoice(signal=Signal(quantity="price"), name="price", unit="price"))
    return found


def _of(signal: Signal, name: str) -> SignalChoice:
    quantity = QUANTITIES[signal.quantity]
    if quantity.states and (quantity.of_devices or quantity.of_room):
        return SignalChoice(signal=signal, name=name, unit="", states=quantity.states)
    unit = "" if quantity.states else quantity.unit
    words = f"{name} {quantity.label}".strip() if signal.quantity != "room_temperature" else f"{name} temperature"
    return SignalChoice(signal=signal, name=words, unit=unit, states=quantity.states)


# Noise of usual sensors, where a log does not tell it, in stored units.
NOISE: dict[str, float] = {
    "room_temperature": 0.1,
    "outdoor_temperature": 0.2,
    "relative_humidity": 1.0,
    "outdoor_humidity": 1.0,
    "absolute_humidity": 0.15,
    "dew_point": 0.15,
    "electric_w": 0.5,
    "blind_position": 0.5,
    "water_flow": 0.3,
    "pressure": 20.0,
    "sun_w_m2": 20.0,
    "water_temperature": 0.1,
    "grid_import_w": 50.0,
    "grid_export_w": 50.0,
}


def looked_at(signal: Signal, how: str, before: Condition | None) -> Condition:
    """Return a condition on a signal, keeping the numbers of the one before where they still have a meaning.

    Raises
    ------
    HomeError
        If ``how`` is no way to look at a quantity.
    """
    value, hysteresis, change = USUAL.get(signal.quantity, (0.5, 0.0, 1.0))
    if how in ("on", "off"):
        return InState(of=signal, is_on=how == "on")
    if how == "silent":
        return replace(before, of=signal) if isinstance(before, Silent) else Silent(of=signal, for_s=3600)
    same = isinstance(before, Compared | Moving) and before.of.quantity == signal.quantity
    minus = before.minus if same and isinstance(before, Compared | Moving) else None
    if how in ("rising", "falling"):
        if same and isinstance(before, Moving):
            return replace(before, of=signal, how="rising" if how == "rising" else "falling")
        return Moving(of=signal, how="rising" if how == "rising" else "falling", by=change, within_s=600, minus=minus)
    if same and isinstance(before, Compared):
        value, hysteresis = before.value, before.hysteresis
    high = value + 2 * max(hysteresis, 0.5) if how == "between" else None
    if how not in ("over", "under", "between"):
        raise HomeError("a quantity goes over, under or between values, rises, falls, or is silent")
    return Compared(of=signal, how=how, value=value, high=high, hysteresis=hysteresis, minus=minus)  # type: ignore[arg-type]


def main_signal(condition: Condition) -> Signal | None:
    """Return the signal that a condition on a signal looks at first."""
    return condition.of if isinstance(condition, OfSignal) else None
