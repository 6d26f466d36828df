"""Conversion between the units that logs and screens use and those stored inside."""

import math
from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import UnitError
from warmeter.core.quantity import QUANTITIES

TemperatureUnit = Literal["C", "F"]
LengthUnit = Literal["m", "ft"]
M_PER_FT, IN_PER_FT = 0.3048, 12
# Finer than a hundredth of a millimetre nobody measures: so many decimals of an inch are tried in turn.
INCH_DECIMALS, NEAR_M = (0, 1, 2, 3), 1e-6


@dataclass(frozen=True, slots=True)
class Units:
    """The units in which a home shows what it stores in °C and metres."""

    temperature: TemperatureUnit = "C"
    length: LengthUnit = "m"


METRIC = Units()
# What a bare number means in a home that counts in feet: stored unit to that unit, with its sign.
L_PER_GAL = 3.785411784
M3_H_PER_CFM = 1.69901082
CM2_PER_IN2 = 6.4516
PA_PER_IN_WATER = 249.08891
FEET_FACTORS = {
    "m": M_PER_FT,
    "m²": M_PER_FT**2,
    "m³": M_PER_FT**3,
    "L": L_PER_GAL,
    "L/min": L_PER_GAL,
    "m³/h": M3_H_PER_CFM,
    "cm²": CM2_PER_IN2,
    "Pa": PA_PER_IN_WATER,
}
FEET_SIGNS = {
    "m": "ft",
    "m²": "ft²",
    "m³": "ft³",
    "L": "gal",
    "L/min": "gal/min",
    "m³/h": "cfm",
    "cm²": "in²",
    "Pa": "in. w.c.",
}
TEMPERATURE_UNITS: tuple[TemperatureUnit, ...] = ("C", "F")

J_PER_KWH = 3.6e6
WEEKS_A_YEAR = 365 / 7
J_PER_WH = 3600
W_MIN_PER_KWH = 60_000
W_PER_KW = 1000
S_PER_MIN = 60
S_PER_H = 3600
S_PER_DAY = 86_400
MIN_PER_H = 60
MIN_PER_DAY = 1440
MS_PER_S = 1000
MS_PER_MIN = 60_000
MS_PER_H = 3_600_000
MS_PER_DAY = 86_400_000
M_PER_KM = 1000.0
M_PER_MI = 5280 * M_PER_FT
KELVIN_AT_0_C = 273.15
F_PER_K = 1.8
W_PER_BTU_H = 0.2930710701722222
SMALL_F, HALF_F = 0.75, 0.5  # a default difference below the first is shown as the second [°F]

# (offset, divisor): °C = (value − offset)/divisor
_TO_CELSIUS: dict[str, tuple[float, float]] = {"°C": (0.0, 1.0), "°F": (32.0, F_PER_K), "K": (KELVIN_AT_0_C, 1.0)}
# An energy unit is turned to watts by its step (resampling), so its factor is joules a unit.
_TO_WATT = {"W": 1.0, "kW": 1000.0}
_TO_JOULE = {"Wh": float(J_PER_WH), "kWh": J_PER_KWH, "MWh": 1000 * J_PER_KWH, "MJ": 1e6, "J": 1.0}
_TO_LITRES_A_MIN = {"l/min": 1.0, "l/h": 1 / 60, "m³/h": 1000 / 60, "gal/min": 3.785411784}
_TO_HPA = {"hPa": 1.0, "mbar": 1.0, "bar": 1000.0, "kPa": 10.0, "Pa": 0.01, "psi": 68.9475729, "inHg": 33.8638866}
_TO_M = {"m": 1.0, "km": 1000.0, "ft": M_PER_FT, "mi": M_PER_MI}
_TO_PRICE = {"/kWh": 1.0, "/MWh": 0.001, "p/kWh": 0.01, "c/kWh": 0.01}
_OTHERS = {"%": 1.0, "1": 1.0, "lx": 1.0, "W/m²": 1.0, "ppm": 1.0, "dBm": 1.0}
_FACTORS = {**_TO_WATT, **_TO_JOULE, **_TO_LITRES_A_MIN, **_TO_HPA, **_TO_M, **_TO_PRICE, **_OTHERS}
_BY_STORED: dict[str, tuple[str, ...]] = {
    "°C": ("°C", "°F", "K"),
    "W": ("W", "kW", "Wh", "kWh", "MWh", "MJ", "J"),
    "%": ("%",),
    "1": ("1", "%"),
    "lx": ("lx",),
    "m": ("m", "km", "ft", "mi"),
    "W/m²": ("W/m²",),
    "ppm": ("ppm",),
    "dBm": ("dBm",),
    "l/min": tuple(_TO_LITRES_A_MIN),
    "hPa": tuple(_TO_HPA),
    "/kWh": tuple(_TO_PRICE),
}
# A blind's log may count from wholly down instead of from open.
_TURNED = "% open"
UNITS_OF: dict[str, tuple[str, ...]] = {
    **{key: _BY_STORED[q.unit] for key, q in QUANTITIES.items()},
    "blind_position": ("%", _TURNED),
}


def is_energy(unit: str) -> bool:
    """Return whether a unit is one of energy, which needs a step to become power."""
    return unit in _TO_JOULE


def to_stored(value: float, *, quantity: str, unit: str) -> float:
    """Convert a value of a log to the quantity's stored unit (energies to joules).

    Raises
    ------
    UnitError
        If the unit does not measure the quantity.

    Examples
    --------
    >>> round(to_stored(68.0, quantity="room_temperature", unit="°F"), 6)
    20.0
    >>> to_stored(0.5, quantity="heat_w", unit="kWh")
    1800000.0
    """
    return float(array_to_stored(np.array([value]), quantity=quantity, unit=unit)[0])


def array_to_stored(value: Floats, *, quantity: str, unit: str) -> Floats:
    """Convert values as ``to_stored`` does, shape as given; ``UnitError`` if the unit does not measure the quantity."""
    if unit not in UNITS_OF.get(quantity, ()):
        raise UnitError(f"{unit} does not measure {quantity}; it can be {', '.join(UNITS_OF.get(quantity, ()))}")
    if unit in _TO_CELSIUS:
        offset, divisor = _TO_CELSIUS[unit]
        return (value - offset) / divisor
    return 100.0 - value if unit == _TURNED else value * _FACTORS[unit]


NumberOrNumbers = TypeVar("NumberOrNumbers", float, Floats)


def celsius_to(value_c: NumberOrNumbers, unit: TemperatureUnit) -> NumberOrNumbers:
    """Return a temperature, or each of many, in the home's unit [°C or °F]."""
    return value_c if unit == "C" else value_c * F_PER_K + 32.0


def feet_and_inches(value_m: float, *, is_rounded: bool = False) -> str:
    """Return a length in feet and inches, as exact as it is stored or to the inch.

    Examples
    --------
    >>> print(feet_and_inches(3.6576), "and", feet_and_inches(3.81))
    12' and 12' 6"
    """
    inches = abs(value_m) / M_PER_FT * IN_PER_FT
    # The fewest decimals that say the length as it is stored.
    decimals = (
        0
        if is_rounded
        else next((n for n in INCH_DECIMALS if abs(round(inches, n) - inches) * M_PER_FT / IN_PER_FT < NEAR_M), 1)
    )
    feet, rest = divmod(round(inches, decimals), IN_PER_FT)
    parts = [f"{feet:.0f}'"] if feet else []
    parts += [f'{round(rest, decimals):g}"'] if rest or not feet else []
    return ("\u2212" if value_m < 0 else "") + " ".join(parts)


def area_to(value_m2: float, unit: LengthUnit) -> float:
    """Return an area in the home's unit [m² or ft²]."""
    return value_m2 if unit == "m" else value_m2 / M_PER_FT**2


def litres_to(value_l: float, unit: LengthUnit) -> float:
    """Return a volume of water in the home's unit [L, or US gallons where lengths are in feet]."""
    return value_l if unit == "m" else value_l / FEET_FACTORS["L"]


def btu_h(value_w: float) -> float:
    """Return a heat flow in BTU/h, of the international table [W]."""
    return value_w / W_PER_BTU_H


def celsius_from(value: float, unit: TemperatureUnit) -> float:
    """Return the temperature [°C] of a number typed in the home's unit."""
    return value if unit == "C" else (value - 32.0) / F_PER_K


def temperature_sign(unit: TemperatureUnit) -> str:
    """Return how a unit of temperature is written."""
    return "°C" if unit == "C" else "°F"


def difference_sign(unit: TemperatureUnit) -> str:
    """Return how a difference of temperatures is written in a unit."""
    return "K" if unit == "C" else "°F"


def kelvin_to(difference_k: float, unit: TemperatureUnit) -> float:
    """Return a temperature difference in the home's unit [K or °F]."""
    return difference_k if unit == "C" else difference_k * F_PER_K


def kelvin_from(difference: float, unit: TemperatureUnit) -> float:
    """Return the difference [K] of a number typed in the home's unit."""
    return difference if unit == "C" else difference / F_PER_K


def whole_c(value_c: float, unit: TemperatureUnit) -> float:
    """Return a default temperature as a whole number of the home's unit, stored unrounded [°C]."""
    return value_c if unit == "C" else celsius_from(float(round(celsius_to(value_c, unit))), unit)


def whole_k(difference_k: float, unit: TemperatureUnit) -> float:
    """Return a default difference as whole °F in a home of that unit, below 1 °F as a half; stored unrounded [K]."""
    if unit == "C" or not difference_k:
        return difference_k
    size = abs(kelvin_to(difference_k, unit))
    return math.copysign(kelvin_from(float(round(size)) if size >= SMALL_F else HALF_F, unit), difference_k)


# What people write behind a number, by the unit that is stored: factor to that unit.
TYPED_UNITS: dict[str, dict[str, float]] = {
    "m": {"m": 1, "cm": 0.01, "mm": 0.001, "ft": 0.3048, "feet": 0.3048, "foot": 0.3048, "'": 0.3048, "in": 0.0254}
    | {"inch": 0.0254, "inches": 0.0254, '"': 0.0254, "yd": 0.9144},
    "m²": {"m²": 1, "m2": 1, "sqm": 1, "ft²": 0.09290304, "ft2": 0.09290304, "sqft": 0.09290304},
    "m³": {"m³": 1, "m3": 1, "l": 0.001, "ft³": 0.028316846592, "ft3": 0.028316846592},
    "L": {"l": 1, "litre": 1, "litres": 1, "liters": 1, "m³": 1000, "m3": 1000, "gal": L_PER_GAL},
    "L/min": {"l/min": 1, "l/s": S_PER_MIN, "l/h": 1 / 60, "gal/min": L_PER_GAL, "gpm": L_PER_GAL},
    "cm²": {"cm²": 1, "cm2": 1, "in²": CM2_PER_IN2, "in2": CM2_PER_IN2, "sqin": CM2_PER_IN2},
    "l/min": {"l/min": 1, "l/s": S_PER_MIN, "l/h": 1 / 60, "gal/min": L_PER_GAL, "gpm": L_PER_GAL},
    "hPa": {key.lower(): factor for key, factor in _TO_HPA.items()},
    "W/m²": {"w/m²": 1, "w/m2": 1},
    "m³/h": {"m³/h": 1, "m3/h": 1, "cfm": M3_H_PER_CFM, "l/s": 3.6},
    "W": {"w": 1, "kw": 1000, "btu/h": W_PER_BTU_H, "btuh": W_PER_BTU_H},
    "kWh": {"kwh": 1, "wh": 0.001, "mwh": 1000},
    "s": {"s": 1, "sec": 1, "min": 60, "m": 60, "h": S_PER_H, "d": S_PER_DAY},
    "min": {
        "min": 1,
        "m": 1,
        "minutes": 1,
        "s": 1 / 60,
        "sec": 1 / 60,
        "h": 60,
        "hr": 60,
        "hours": 60,
        "d": MIN_PER_DAY,
    },
    "h": {"h": 1, "hr": 1, "hours": 1, "min": 1 / 60, "m": 1 / 60, "d": 24, "days": 24},
    "K": {"k": 1, "c": 1, "°c": 1, "f": 1 / F_PER_K, "°f": 1 / F_PER_K},
    "%": {"%": 1},
    "°": {"°": 1, "deg": 1},
    "lx": {"lx": 1, "lux": 1},
    "ppm": {"ppm": 1},
    "g/m3": {"g/m3": 1, "g/m³": 1},
    "Pa": {
        "pa": 1,
        "in": PA_PER_IN_WATER,
        "inwc": PA_PER_IN_WATER,
        "kpa": 1000,
        "hpa": 100,
        "mbar": 100,
        "bar": 100_000,
    },
}
