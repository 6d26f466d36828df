"""A simulated panel with moods: one lamp, one button that toggles, and what real panels do besides."""

from typing import Literal

Mood = Literal["plain", "deaf", "twitchy", "slow", "wilful", "dim", "shared", "dead"]
MOODS: dict[Mood, str] = {
    "plain": "does what it is told",
    "deaf": "misses every third press",
    "twitchy": "takes every third press for two",
    "slow": "blinks for a minute before it is on",
    "wilful": "goes off by itself after twenty minutes",
    "dim": "its lamp cannot be read for minutes at a time",
    "shared": "somebody else presses too",
    "dead": "its button does nothing",
}
_BLINK_MS, _MINUTE_MS = 1000, 60_000
_SHARED_AT_MIN = (31.0, 74.0, 170.0)


class SimulatedPanel:
    """A panel of a mood; it does the same each time."""

    def __init__(self, mood: Mood) -> None:
        self._mood = mood
        self._on, self._since, self._presses = False, 0, 0
        self._others = [round(at * _MINUTE_MS) for at in _SHARED_AT_MIN] if mood == "shared" else []
        self._dim = [(at, at + 6 * _MINUTE_MS) for at in (8 * _MINUTE_MS, 95 * _MINUTE_MS)] if mood == "dim" else []

    def is_lit(self, now_ms: int) -> bool | None:
        """Return whether its lamp is lit; None where it cannot be read."""
        self._go_on(now_ms)
        if any(begin <= now_ms < end for begin, end in self._dim):
            return None
        starts_ms = _MINUTE_MS if self._mood == "slow" else 4000
        if self._on and now_ms - self._since < starts_ms:
            return now_ms % _BLINK_MS < _BLINK_MS // 2
        return self._on

    def is_on(self, now_ms: int) -> bool:
        """Return what it really does."""
        self._go_on(now_ms)
        return self._on

    def press(self, now_ms: int) -> None:
        """Press its button."""
        self._go_on(now_ms)
        self._presses += 1
        if self._mood == "dead" or (self._mood == "deaf" and self._presses % 3 == 1):
            return
        self._toggle(now_ms)
        if self._mood == "twitchy" and self._presses % 3 == 0:
            self._toggle(now_ms)

    def _toggle(self, now_ms: int) -> None:
        self._on, self._since = not self._on, now_ms

    def _go_on(self, now_ms: int) -> None:
        while self._others and self._others[0] <= now_ms:
            self._toggle(self._others.pop(0))
        if self._mood == "wilful" and self._on and now_ms - self._since >= 20 * _MINUTE_MS:
            self._toggle(now_ms)
