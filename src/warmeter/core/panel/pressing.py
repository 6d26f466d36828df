"""When a button that turns something on and off by turns may be pressed: only when its state is known and other."""

from dataclasses import dataclass, replace
from typing import Literal

from warmeter.core.home.panels import PanelFunction
from warmeter.core.panel.lamp_state import LampState
from warmeter.core.units import MS_PER_H, MS_PER_S

PressAct = Literal["press", "rest", "wait", "tell"]
Because = Literal["as wanted", "not known", "between", "looks after a press", "too many", "does nothing"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PressMemory:
    """Presses so far [ms UTC], those in a row that changed nothing, and whether the last one is still looked after."""

    presses_ms: tuple[int, ...] = ()
    failed: int = 0
    is_open: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PressDecision:
    """What to do now, why, and what to remember."""

    act: PressAct
    because: Because | None
    memory: PressMemory


def press_decision(
    function: PanelFunction, *, wanted_on: bool, state: LampState, now_ms: int, memory: PressMemory
) -> PressDecision:
    """Return whether to press now.

    A state that is not known, or stands between, is never pressed on: a button that toggles would do the opposite. A
    press is looked after; one that changed nothing is tried again so many times, then somebody is told and nothing more
    is pressed until the state is as wanted.
    """
    is_on = _is_on(function, state)
    if state == "unknown":
        return PressDecision(act="wait", because="not known", memory=memory)
    if is_on is None:
        return PressDecision(act="wait", because="between", memory=memory)
    if is_on == wanted_on:
        return PressDecision(act="rest", because="as wanted", memory=replace(memory, failed=0, is_open=False))
    last = memory.presses_ms[-1] if memory.presses_ms else None
    if last is not None and now_ms - last < MS_PER_S * max(function.check_s, function.rest_s):
        return PressDecision(act="wait", because="looks after a press", memory=memory)
    failed = memory.failed + 1 if memory.is_open else memory.failed
    memory = replace(memory, failed=failed, is_open=False)
    if failed >= function.tries:
        return PressDecision(act="tell", because="does nothing", memory=memory)
    if sum(now_ms - at < MS_PER_H for at in memory.presses_ms) >= function.hour_most:
        return PressDecision(act="tell", because="too many", memory=memory)
    kept = (*(at for at in memory.presses_ms if now_ms - at < MS_PER_H), now_ms)
    return PressDecision(act="press", because=None, memory=replace(memory, presses_ms=kept, is_open=True))


def _is_on(function: PanelFunction, state: LampState) -> bool | None:
    """Return whether a state is on; None where blinking stands between."""
    if state == "blinking":
        return {"on": True, "off": False, "between": None}[function.blinking_means]
    return state == "steady"
