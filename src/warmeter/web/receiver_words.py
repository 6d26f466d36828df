"""What is typed into a receiver, in words: the same on the sheet of settings and on that of rules."""

from warmeter.core.home.receivers import Typed
from warmeter.core.units import temperature_sign
from warmeter.web import format as show


def setpoint_words(typed: Typed) -> str:
    """Return a setpoint as its receiver takes it, with its unit; "" where it takes none."""
    grid = typed.receiver.grid
    if typed.setpoint is None or grid is None:
        return ""
    decimals = 0 if grid.step == round(grid.step) else 1
    return f"{show.number(typed.setpoint, decimals)} {temperature_sign(grid.unit)}"


def fields_words(typed: Typed) -> str:
    """Return all fields of a receiver: mode, setpoint, fan."""
    parts = []
    if typed.mode:
        parts.append(f"mode {typed.mode}" if typed.receiver.has_modes else typed.mode)
    if setpoint := setpoint_words(typed):
        parts.append(f"setpoint {setpoint}")
    if typed.fan is not None:
        parts.append(f"fan {typed.fan}")
    return ", ".join(parts) or "nothing"
