"""What is heard under each topic: how often, which values, what is refused; bounded however much comes."""

from collections import deque
from dataclasses import dataclass, field
from statistics import median

from warmeter.core.errors import ReadingError
from warmeter.core.link.json_path import paths_of, read_json
from warmeter.core.link.message_reading import LinkMessage, MessageRefused, message_text
from warmeter.core.units import MS_PER_S

MAXIMUM_TOPICS = 2000
KEPT_MESSAGES, KEPT_LETTERS = 8, 400
KEPT_GAPS = 24
KEPT_VALUES = 12
READ_EVERY_MS = MS_PER_S
BURST, PER_S = 200.0, 40.0  # of one topic: so many at once, then so many a second


@dataclass(slots=True)
class TopicTraffic:
    """What was heard under one topic.

    Parameters
    ----------
    count, first_ms, last_ms : int
        Messages, and when the first and the last came [ms UTC].
    gaps_ms : deque of int
        Times between the last messages.
    messages : deque of (int, str)
        The last ones, shortened: when and what.
    low, high, latest : mapping of str to float
        Least, most and last number by its path in the message; what a mapping takes is looked at once a second at most.
    read_ms : int
        When a message was last looked at for its numbers [ms UTC].
    refused : mapping of str to int
        Messages that were refused, by kind; ``flood`` are those beyond the bound.
    stored, again : int
        Readings that were kept, and those that were known already.
    is_mapped : bool
        Whether a mapping takes it.
    """

    topic: str
    count: int = 0
    first_ms: int = 0
    last_ms: int = 0
    gaps_ms: deque[int] = field(default_factory=lambda: deque(maxlen=KEPT_GAPS))
    messages: deque[tuple[int, str]] = field(default_factory=lambda: deque(maxlen=KEPT_MESSAGES))
    low: dict[str, float] = field(default_factory=dict)
    high: dict[str, float] = field(default_factory=dict)
    latest: dict[str, float] = field(default_factory=dict)
    refused: dict[str, int] = field(default_factory=dict)
    stored: int = 0
    again: int = 0
    is_mapped: bool = False
    read_ms: int = 0
    allowance: float = BURST
    is_changed: bool = True

    @property
    def rhythm_s(self) -> float | None:
        """Middle of the times between messages [s], None with fewer than three."""
        return median(self.gaps_ms) / MS_PER_S if len(self.gaps_ms) > 1 else None

    def refuse(self, kind: str) -> None:
        """Count a message that was refused."""
        self.refused[kind] = self.refused.get(kind, 0) + 1
        self.is_changed = True

    def is_flooding(self, real_ms: int, before_real_ms: int) -> bool:
        """Count a message against the bound of its topic, by the machine's clock; return whether it is beyond it."""
        self.allowance = min(BURST, self.allowance + PER_S * max(0, real_ms - before_real_ms) / MS_PER_S) - 1
        if self.allowance >= 0:
            return False
        self.allowance = 0.0
        self.refuse("flood")
        return True

    def hear(self, message: LinkMessage) -> None:
        """Count a message and remember what it says; one that is no text is refused when it is read."""
        if self.count and message.heard_ms >= self.last_ms:
            self.gaps_ms.append(message.heard_ms - self.last_ms)
        self.first_ms = self.first_ms or message.heard_ms
        self.count, self.last_ms, self.is_changed = self.count + 1, message.heard_ms, True
        try:
            text = message_text(message.payload)
        except MessageRefused as error:
            self.messages.append((message.heard_ms, f"({error})"))
            return
        self.messages.append((message.heard_ms, text[:KEPT_LETTERS]))
        if self.is_mapped and 0 <= message.heard_ms - self.read_ms < READ_EVERY_MS:
            return
        self.read_ms = message.heard_ms
        for path, value in numbers_of(text):
            if path in self.latest or len(self.latest) < KEPT_VALUES:
                self.low[path] = min(self.low.get(path, value), value)
                self.high[path] = max(self.high.get(path, value), value)
                self.latest[path] = value


class LinkTraffic:
    """Everything that is heard over a link, by topic; of more than 2,000 those heard longest ago are let go."""

    def __init__(self) -> None:
        self.topics: dict[str, TopicTraffic] = {}
        self._real_ms: dict[str, int] = {}
        self.forgotten = 0

    def of(self, topic: str) -> TopicTraffic:
        """Return what was heard under a topic, made at its first message."""
        found = self.topics.get(topic)
        if found is None:
            if len(self.topics) >= MAXIMUM_TOPICS:
                unmapped = [t for t, each in self.topics.items() if not each.is_mapped] or list(self.topics)
                oldest = min(unmapped, key=lambda key: self.topics[key].last_ms)
                del self.topics[oldest], self._real_ms[oldest]
                self.forgotten += 1
            found = self.topics[topic] = TopicTraffic(topic)
            self._real_ms[topic] = 0
        return found

    def is_flooding(self, topic: TopicTraffic, real_ms: int) -> bool:
        """Count a message against the bound of its topic; return whether it is beyond it."""
        before, self._real_ms[topic.topic] = self._real_ms[topic.topic], real_ms
        return topic.is_flooding(real_ms, before or real_ms)

    def changed(self) -> list[TopicTraffic]:
        """Return the topics of which something changed since the last asking."""
        found = [each for each in self.topics.values() if each.is_changed]
        for each in found:
            each.is_changed = False
        return found


def numbers_of(text: str) -> list[tuple[str, float]]:
    """Return the numbers of a message by their path: one that is a number as a whole has the path ""."""
    stripped = text.strip()
    try:
        return [("", float(stripped.replace(",", ".", 1)))]
    except ValueError:
        pass
    if stripped[:1] not in ("{", "["):
        return []
    try:
        found = paths_of(read_json(stripped))
    except ReadingError:
        return []
    return [(path, float(value)) for path, value in found if isinstance(value, int | float)][:KEPT_VALUES]
