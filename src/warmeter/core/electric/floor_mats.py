"""Mats of warm floors: thermostats that a floor needs (L2), relay modules (L3), ohms and watts a square metre."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from warmeter.core.electric.circuit_load import volt_factor
from warmeter.core.errors import OutOfRange, within

# Surface that makers of covers usually allow [°C], and watts a square metre under them.
COVER_LIMIT_C = {"tile": 29.0, "stone": 29.0, "vinyl": 27.0, "laminate": 27.0, "timber": 27.0, "carpet": 27.0}
COVER_MOST_W_M2 = {"tile": 200.0, "stone": 200.0, "vinyl": 120.0, "laminate": 100.0, "timber": 100.0, "carpet": 100.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class FloorThermostats:
    """A floor's power [W] and current [A], what one thermostat may carry [W], and how many it takes."""

    power_w: float
    current_a: float
    per_thermostat_w: float
    count: int


def floor_thermostats(power_w: float, *, control_a: float, voltage_v: float, use_factor: float) -> FloorThermostats:
    """Return how many thermostats a floor of a power needs; ``use_factor`` is the share of their amperes that may be used.

    Raises
    ------
    OutOfRange
        If the power is negative, or the thermostat may carry nothing.

    Notes
    -----
    docs/methods L2: each with a cable of its own, none crossed, cut or joined.
    """
    within("power", power_w, 0.0, 1e6, "W")
    most = control_a * volt_factor(voltage_v, 1, 1.0) * use_factor
    if most <= 0:
        raise OutOfRange("amperes of the thermostat", control_a, 0.0, 630.0, "A")
    return FloorThermostats(
        power_w=power_w, current_a=power_w / voltage_v, per_thermostat_w=most, count=ceil(power_w / most - 1e-9)
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class RelayModules:
    """Channels and modules that loads take, and the places of loads that are too much for a channel."""

    channels: int
    modules: int
    over_channel: tuple[int, ...]


def relay_modules(
    loads_w: Sequence[float], *, channels_per_module: int, channel_max_a: float, voltage_v: float
) -> RelayModules:
    """Return the relay modules of loads, a channel each; those over a channel's amperes need a contactor.

    Raises
    ------
    OutOfRange
        If a module has no channel, or the volts do not lie in 12 to 1000.

    Notes
    -----
    docs/methods L3: never two channels in parallel.
    """
    within("channels of a module", channels_per_module, 1, 1000)
    most = channel_max_a * volt_factor(voltage_v, 1, 1.0)
    return RelayModules(
        channels=len(loads_w),
        modules=ceil(len(loads_w) / channels_per_module),
        over_channel=tuple(place for place, load in enumerate(loads_w) if load > most + 1e-9),
    )


def mat_ohm(power_w: float, voltage_v: float) -> float:
    """Return the ohms that a mat of a power has at its volts [Ω]: R = U²/P (docs/methods L2).

    Raises
    ------
    OutOfRange
        If the power is not above 0.
    """
    if power_w <= 0:
        raise OutOfRange("power of the mat", power_w, 0.0, 20_000.0, "W")
    return voltage_v**2 / power_w
