"""The narrow port that homes are linked through: messages heard and acknowledged, commands published."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Protocol

MOST_AT_ONCE = 2000  # messages: what is taken is acknowledged soon, so that a kill leaves little to be sent again


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardMessage:
    """A message with what is needed to acknowledge it: its number, its quality of service, whether it is sent again."""

    topic: str
    payload: bytes
    heard_ms: int
    is_retained: bool = False
    message_id: int = 0
    quality: int = 0
    is_again: bool = False
    session: int = 0


class Publish(Protocol):
    """How messages are sent, as ``LinkPort.publish``."""

    def __call__(self, topic: str, payload: str, *, is_once: bool = False) -> bool:
        """Send a message; return whether the link took it."""
        ...


class LinkPort(Protocol):
    """A link that messages come and go over."""

    @property
    def is_connected(self) -> bool:
        """Whether anybody answers at its other end."""
        ...

    @property
    def why(self) -> str:
        """Why it is not connected, "" where it is."""
        ...

    @property
    def dropped(self) -> int:
        """How many messages found no place."""
        ...

    def heard(self, wait_s: float, most: int = MOST_AT_ONCE) -> list[HeardMessage]:
        """Return messages that were heard, waiting so long for the first."""
        ...

    def acknowledge(self, messages: Iterable[HeardMessage]) -> None:
        """Tell whoever brought them that messages are kept."""
        ...

    def publish(self, topic: str, payload: str, *, is_once: bool = False) -> bool:
        """Send a message, ``is_once`` at most once and only if the link is there; return whether the link took it."""
        ...

    def listen(self, listens: Sequence[str]) -> None:
        """Listen to other patterns from now on."""
        ...


@dataclass(slots=True)
class DirectLink:
    """A link within one process: what is put in is heard, what is published is laid aside in order."""

    waiting: list[HeardMessage] = field(default_factory=list)
    published: list[tuple[str, str]] = field(default_factory=list)
    acknowledged: int = 0
    is_connected: bool = True
    dropped: int = 0

    @property
    def why(self) -> str:
        """Why it is not connected, "" where it is."""
        return "" if self.is_connected else "it was cut"

    def heard(self, wait_s: float, most: int = MOST_AT_ONCE) -> list[HeardMessage]:  # noqa: ARG002  (nothing is waited for)
        """Return what was put in."""
        found, self.waiting = self.waiting[:most], self.waiting[most:]
        return found

    def acknowledge(self, messages: Iterable[HeardMessage]) -> None:
        """Count what is kept."""
        self.acknowledged += sum(1 for _ in messages)

    def publish(self, topic: str, payload: str, *, is_once: bool = False) -> bool:  # noqa: ARG002  (never sent twice)
        """Lay a message aside; return whether the link is there."""
        if self.is_connected:
            self.published.append((topic, payload))
        return self.is_connected

    def listen(self, listens: Sequence[str]) -> None:
        """Hear whatever is put in."""
