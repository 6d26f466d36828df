"""Which mappings take a message, the series that it goes into, and a mapping tried on what was heard."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.links import MessageMapping
from warmeter.core.link.message_reading import LinkMessage, MessageReading, MessageRefused, message_reading
from warmeter.core.link.topic_pattern import are_levels_matching, is_matching, level_of
from warmeter.core.readings.record import USUAL_HOLD_S, SeriesRecord

HOLD_RHYTHMS = 5


class MappingChooser:
    """The mappings of a home, each topic looked up once."""

    def __init__(self, home: Home) -> None:
        self._mappings = [(mapping, mapping.topic.split("/")) for mapping in home.message_mappings]
        self._by_address = {d.address: d.id for d in home.devices if d.address and d.is_in_service}
        self._found: dict[str, tuple[tuple[MessageMapping, str | None], ...]] = {}

    def of(self, topic: str) -> tuple[tuple[MessageMapping, str | None], ...]:
        """Return the mappings that take a topic, each with the id of what it belongs to (None: a device not known)."""
        if topic not in self._found:
            if len(self._found) > FORGET_FROM:
                self._found.clear()
            levels = topic.split("/")
            self._found[topic] = tuple(
                (mapping, self.subject_of(mapping, topic))
                for mapping, pattern in self._mappings
                if are_levels_matching(pattern, levels)
            )
        return self._found[topic]

    def subject_of(self, mapping: MessageMapping, topic: str) -> str | None:
        """Return what a topic's readings belong to by a mapping, None for a device that is not known."""
        if mapping.address_level is None:
            return mapping.subject_id
        return self._by_address.get(level_of(topic, mapping.address_level))


FORGET_FROM = 5000


def record_of(mapping: MessageMapping, subject_id: str) -> SeriesRecord:
    """Return the series that a mapping's readings belong to."""
    hold_s = USUAL_HOLD_S[mapping.kind]
    return SeriesRecord(
        quantity=mapping.quantity,
        unit=mapping.unit,
        kind=mapping.kind,
        stamp="end" if mapping.kind == "mean" else "instant",
        step_s=mapping.step_s,
        longest_hold_s=max(hold_s, HOLD_RHYTHMS * mapping.rhythm_s),
        subject=subject_id,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TriedMessage:
    """A message that fell under a mapping: what would be kept of it, or why nothing would."""

    topic: str
    heard_ms: int
    text: str
    subject_id: str | None
    reading: MessageReading | None
    why: str = ""


def tried(
    home: Home, mapping: MessageMapping, heard: Mapping[str, Sequence[tuple[int, str]]], most: int = 40
) -> tuple[TriedMessage, ...]:
    """Return what a mapping would make of messages that were heard, the newest first.

    Parameters
    ----------
    heard : mapping of str to (int, str)
        By topic: when [ms UTC] and what.
    """
    chooser = MappingChooser(home)
    rows = []
    for topic, messages in heard.items():
        if not is_matching(mapping.topic, topic):
            continue
        subject = chooser.subject_of(mapping, topic)
        for at_ms, text in messages:
            rows.append(_tried(mapping, topic, at_ms, text, subject))
    return tuple(sorted(rows, key=lambda row: row.heard_ms, reverse=True)[:most])


def _tried(mapping: MessageMapping, topic: str, at_ms: int, text: str, subject: str | None) -> TriedMessage:
    reading, why = None, ""
    if subject is None:
        why = "no device in service has this address"
    else:
        try:
            reading = message_reading(mapping, LinkMessage(topic=topic, payload=text.encode(), heard_ms=at_ms))
        except MessageRefused as error:
            why = str(error)
    return TriedMessage(topic=topic, heard_ms=at_ms, text=text, subject_id=subject, reading=reading, why=why)
