"""Messages of a home taken in: read by its mappings, kept in one transaction, acknowledged only then."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from warmeter.core.home.document import Home
from warmeter.core.link.mapping_choice import MappingChooser, record_of
from warmeter.core.link.message_reading import LinkMessage, MessageRefused, message_reading
from warmeter.core.link.topic_pattern import is_matching
from warmeter.core.link.traffic import LinkTraffic, TopicTraffic
from warmeter.core.link.usual_topics import presence_topic
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.presence.presence_log import PRESENCE_QUANTITIES
from warmeter.core.readings.record import SeriesRecord
from warmeter.core.units import MS_PER_MIN, MS_PER_S
from warmeter.links.link_port import HeardMessage
from warmeter.service.app import App
from warmeter.store.live_homes import KeptTopic
from warmeter.store.live_readings import HeardReading

SEES_SOMEBODY = frozenset(PRESENCE_QUANTITIES) - {"electric_w"}
AGAIN_MS = 10 * MS_PER_MIN  # so long after it was kept a message that is sent again is known
PREFIX = "homes"


def usual_pattern(home_id: str) -> str:
    """Return the topics below which a home's devices speak where nothing else was said."""
    return f"{PREFIX}/{home_id}/#"


def patterns_of(home: Home) -> tuple[str, ...]:
    """Return the topic patterns that a home listens to."""
    return home.link.listens or (usual_pattern(home.id),)


def own_topics(home: Home) -> frozenset[str]:
    """Return the topics under which Warmeter itself speaks: its commands, and that it is there."""
    return frozenset({presence_topic(home.id), *(mapping.topic for mapping in home.command_mappings)})


@dataclass(slots=True)
class IntakeCounts:
    """What came in since the start; ``of_people`` bears witness to who is in."""

    messages: int = 0
    kept: int = 0
    known: int = 0
    refused: int = 0
    other_homes: int = 0
    late: int = 0
    turned_away: int = 0
    unknown: int = 0
    of_people: int = 0
    new_series: set[int] = field(default_factory=set)


class LiveIntake:
    """One home's messages, whatever link they come over."""

    def __init__(self, app: App, home: Home, clock: HomeClock) -> None:
        self._app = app
        self.home, self.clock = home, clock
        self.chooser = MappingChooser(home)
        self._own_topics = own_topics(home)
        # Read at once: whoever comes after a kill has a backlog to take in.
        self._series = app.live_readings.series_ids(home.id)
        self._newest: dict[int, int] = {}
        self.traffic, self.counts = LinkTraffic(), IntakeCounts()

    def take_home(self, home: Home, clock: HomeClock) -> None:
        """Go on with a home that was edited, or with a clock of another speed."""
        self.clock = clock
        if home is not self.home:
            self.home, self.chooser = home, MappingChooser(home)
            self._own_topics = own_topics(home)

    def take(self, messages: Sequence[HeardMessage]) -> list[HeardReading]:
        """Keep what messages say in one transaction, and return it; nothing is kept if the database is away.

        Raises
        ------
        DatabaseAway
            If it is: the messages are to be taken again.
        """
        rows: list[HeardReading] = []
        told: list[tuple[TopicTraffic, int]] = []
        listens = patterns_of(self.home)
        for message in messages:
            self.counts.messages += 1
            if not any(is_matching(pattern, message.topic) for pattern in listens):
                self.counts.other_homes += 1
                continue
            if message.topic in self._own_topics:
                continue
            if any(is_matching(pattern, message.topic) for pattern in self.home.link.refuses):
                self.counts.turned_away += 1
                continue
            traffic = self.traffic.of(message.topic)
            if self.traffic.is_flooding(traffic, message.heard_ms):
                self.counts.refused += 1
                continue
            found = self._rows(message, traffic)
            rows += found
            told += [(traffic, len(found))] if found else []
        added = self._app.live_readings.add(rows)
        self.counts.kept += added
        self.counts.known += len(rows) - added
        for traffic, count in told:
            traffic.stored += count
        return rows

    def _rows(self, message: HeardMessage, traffic: TopicTraffic) -> list[HeardReading]:
        heard_ms = self.clock.home_at(message.heard_ms)
        link_message = LinkMessage(
            topic=message.topic, payload=message.payload, heard_ms=heard_ms, is_retained=message.is_retained
        )
        traffic.hear(link_message)
        mappings = self.chooser.of(message.topic)
        traffic.is_mapped = any(subject is not None for _, subject in mappings)
        if not traffic.is_mapped:
            self.counts.unknown += 1
            return []
        rows = []
        for mapping, subject in mappings:
            if subject is None:
                continue
            try:
                reading = message_reading(mapping, link_message)
            except MessageRefused as error:
                traffic.refuse(error.kind)
                self.counts.refused += 1
                continue
            series_id = self._series_id(record_of(mapping, subject))
            self.counts.of_people += mapping.quantity in SEES_SOMEBODY
            if message.is_again and not mapping.time_path and self._is_kept(series_id, message, reading.value):
                traffic.again += 1
                self.counts.known += 1
                continue
            newest, at_ms = self._newest.get(series_id, 0), reading.at_ms
            if not mapping.time_path and at_ms <= newest < at_ms + MS_PER_S:
                at_ms = newest + 1  # "wet" and "dry" that were heard within one millisecond are both kept
            self.counts.late += at_ms < newest
            self._newest[series_id] = max(newest, at_ms)
            rows.append(
                HeardReading(
                    series_id=series_id,
                    at_ms=at_ms,
                    value=reading.value,
                    heard_ms=heard_ms,
                    real_ms=message.heard_ms,
                    message_id=message.message_id,
                )
            )
        return rows

    def _is_kept(self, series_id: int, message: HeardMessage, value: float) -> bool:
        since = message.heard_ms - AGAIN_MS
        return self._app.live_readings.has_message(series_id, message.message_id, value, since)

    def _series_id(self, record: SeriesRecord) -> int:
        if record not in self._series:
            self._series[record] = self._app.live_readings.series_id(self.home.id, record)
            self.counts.new_series.add(self._series[record])
        return self._series[record]

    def keep_traffic(self) -> None:
        """Keep what was heard under topics since the last time, for the pages that show it."""
        self._app.live_homes.keep_topics(self.home.id, [kept_topic(each) for each in self.traffic.changed()])


def kept_topic(traffic: TopicTraffic) -> KeptTopic:
    """Return what was heard under a topic as it is kept."""
    detail = {
        "count": traffic.count,
        "first_ms": traffic.first_ms,
        "rhythm_s": traffic.rhythm_s,
        "messages": list(traffic.messages),
        "low": traffic.low,
        "high": traffic.high,
        "latest": traffic.latest,
        "refused": traffic.refused,
        "stored": traffic.stored,
        "again": traffic.again,
        "is_mapped": traffic.is_mapped,
    }
    return KeptTopic(topic=traffic.topic, last_ms=traffic.last_ms, detail=detail)
