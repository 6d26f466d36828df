"""The state of a lamp from its light: off, blinking or steady, and not known until it was watched long enough."""

from collections import deque
from typing import Literal

import numpy as np

from warmeter.core.arrays import Floats, Ints

LampState = Literal["off", "blinking", "steady", "unknown"]
STATES: tuple[LampState, ...] = ("off", "blinking", "steady", "unknown")
OFF, BLINKING, STEADY, UNKNOWN = range(4)


def lamp_states(at_ms: Ints, lit: Floats, now_ms: Ints, *, watch_ms: int, hold_ms: int) -> Ints:
    """Return a lamp's state at instants, shape as ``now_ms``: places in ``STATES``.

    Parameters
    ----------
    at_ms : (report,) int array
        When its light was told, rising [ms UTC].
    lit : (report,) float array
        1 lit, 0 dark.
    now_ms : int array
        Instants, rising [ms UTC].
    watch_ms : int
        So long it is watched; longer than a blink, or a blink's dark half is taken for off [ms].
    hold_ms : int
        So long a report speaks; a longer silence within the watch makes the state unknown [ms].

    Notes
    -----
    Lit or dark all through the watch: steady or off. Changed twice or oftener: blinking. Changed once: it may have
    begun to blink, or have come on; not known yet.
    """
    if not at_ms.size:
        return np.full(now_ms.shape, UNKNOWN, dtype=np.int64)
    first = np.searchsorted(at_ms, now_ms - watch_ms, side="right") - 1
    last = np.searchsorted(at_ms, now_ms, side="right") - 1
    silent = np.concatenate([[0], np.cumsum(np.diff(at_ms) > hold_ms)])
    changed = np.concatenate([[0], np.cumsum(np.diff(lit) != 0)])
    start, end = np.maximum(first, 0), np.maximum(last, 0)
    heard = (first >= 0) & (silent[end] == silent[start]) & (now_ms - at_ms[end] <= hold_ms)
    changes = changed[end] - changed[start]
    still = np.where(lit[end] >= 0.5, STEADY, OFF)
    found = np.where(changes == 0, still, np.where(changes >= 2, BLINKING, UNKNOWN))
    return np.where(heard, found, UNKNOWN).astype(np.int64)


class LampWatch:
    """A lamp watched from reading to reading, as ``lamp_states`` says it of a log."""

    def __init__(self, *, watch_ms: int, hold_ms: int) -> None:
        self._watch_ms, self._hold_ms = watch_ms, hold_ms
        self._heard_since: int | None = None
        self._last: tuple[int, bool] | None = None
        self._changes: deque[int] = deque()

    def read(self, now_ms: int, is_lit: bool | None) -> LampState:
        """Take a reading (None where it cannot be read) and return the state now."""
        if self._last is not None and now_ms - self._last[0] > self._hold_ms:
            self._last = None
            self._changes.clear()
        if is_lit is not None:
            if self._last is None:
                self._heard_since = now_ms
            elif self._last[1] != is_lit:
                self._changes.append(now_ms)
            self._last = now_ms, is_lit
        while self._changes and self._changes[0] <= now_ms - self._watch_ms:
            self._changes.popleft()
        if self._last is None or self._heard_since is None or now_ms - self._heard_since < self._watch_ms:
            return "unknown"
        if len(self._changes) == 1:
            return "unknown"
        return "blinking" if self._changes else "steady" if self._last[1] else "off"
