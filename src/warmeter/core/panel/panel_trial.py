"""A panel function tried on a panel: by looking first, and by pressing blindly at each change of what is wanted."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, Protocol

from warmeter.core.home.panels import PanelFunction
from warmeter.core.panel.lamp_state import LampState, LampWatch
from warmeter.core.panel.pressing import Because, PressMemory, press_decision
from warmeter.core.units import MS_PER_S

TICK_MS, SPEAKS_MS = 250, 1000
How = Literal["looks", "blind"]


class TriedPanel(Protocol):
    """A panel, a real one or a stand-in."""

    def is_lit(self, now_ms: int) -> bool | None:
        """Return whether its lamp is lit; None where it cannot be read."""

    def is_on(self, now_ms: int) -> bool:
        """Return what it really does."""

    def press(self, now_ms: int) -> None:
        """Press its button."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelTrial:
    """What came of a trial; stretches are [begin, end) in ms from its start.

    ``wrong_s`` are the seconds in which the panel did not do what was wanted, ``unknown_s`` those in which its state was
    not known; ``told`` are the moments at which somebody was told, and why.
    """

    how: How
    presses_ms: tuple[int, ...]
    wrong_s: float
    unknown_s: float
    told: tuple[tuple[int, Because], ...]
    on: tuple[tuple[int, int], ...]
    states: tuple[tuple[int, LampState], ...]


def panel_trial(
    function: PanelFunction, panel: TriedPanel, wanted_on: Callable[[int], bool], length_ms: int, how: How
) -> PanelTrial:
    """Return what comes of a panel function on a panel over a time.

    Its lamp is read four times a second and each reading speaks for a second, so that what cannot be read is soon not
    known.
    """
    presses: list[int] = []
    told: list[tuple[int, Because]] = []
    states: list[tuple[int, LampState]] = []
    on: list[list[int]] = []
    memory, wrong, unknown, before = PressMemory(), 0, 0, False
    watch = LampWatch(watch_ms=round(function.watch_s * MS_PER_S), hold_ms=SPEAKS_MS)
    for now in range(0, length_ms, TICK_MS):
        wanted = wanted_on(now)
        state = watch.read(now, panel.is_lit(now))
        if not states or states[-1][1] != state:
            states.append((now, state))
        if how == "looks":
            found = press_decision(function, wanted_on=wanted, state=state, now_ms=now, memory=memory)
            if found.act == "tell" and found.because is not None and (not told or told[-1][1] != found.because):
                told.append((now, found.because))
            memory, is_pressed = found.memory, found.act == "press"
        else:
            is_pressed = wanted != before
        before = wanted
        if is_pressed:
            panel.press(now)
            presses.append(now)
        does = panel.is_on(now)
        if does and (not on or on[-1][1] != now):
            on.append([now, now])
        if does:
            on[-1][1] = now + TICK_MS
        wrong += TICK_MS * (does != wanted)
        unknown += TICK_MS * (state == "unknown")
    return PanelTrial(
        how=how,
        presses_ms=tuple(presses),
        wrong_s=wrong / MS_PER_S,
        unknown_s=unknown / MS_PER_S,
        told=tuple(told),
        on=tuple((begin, end) for begin, end in on),
        states=tuple(states),
    )
