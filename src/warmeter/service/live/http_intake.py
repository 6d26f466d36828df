"""Readings and messages that come over HTTP: a token a home, batches as JSON, each (series, time) once."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field

from warmeter.core.errors import ReadingError, WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.link.mapping_choice import MappingChooser, record_of
from warmeter.core.link.message_reading import AHEAD_MS, BEHIND_MS, LinkMessage, MessageRefused, message_reading
from warmeter.core.link.traffic import LinkTraffic
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.record import USUAL_HOLD_S, Kind, SeriesRecord
from warmeter.core.timegrid import to_ms
from warmeter.core.units import is_energy, to_stored
from warmeter.service.app import App
from warmeter.service.live.intake import kept_topic
from warmeter.store.live_readings import HeardReading

MOST_ITEMS = 5000
TOKEN_BYTES = 24
TOKEN_START = "wm_"  # noqa: S105  (how every token begins, none itself)


class BatchReading(BaseModel):
    """A reading: of which part of the home, which quantity, when and how much."""

    model_config = ConfigDict(extra="forbid", strict=True)

    quantity: Annotated[str, Field(max_length=40, description="Key of a quantity, such as room_temperature")]
    subject: Annotated[str, Field(max_length=80)] = Field(
        default="", description="Id, name or address of a room, device or appliance; empty for the home or outdoors"
    )
    unit: Annotated[str, Field(max_length=12)] = ""
    at: Annotated[AwareDatetime, Field(strict=False, description="ISO 8601 with its offset; left out: now")] | None = (
        None
    )
    value: Annotated[float, Field(strict=False, allow_inf_nan=False)]
    kind: Literal["instant", "held", "counter"] | None = None


class BatchMessage(BaseModel):
    """A message as a broker would bring it: a topic and what it says, read by the home's mappings."""

    model_config = ConfigDict(extra="forbid", strict=True)

    topic: Annotated[str, Field(min_length=1, max_length=200)]
    payload: Annotated[str, Field(max_length=16_384)]


class Batch(BaseModel):
    """What is sent at once: readings, messages, or both."""

    model_config = ConfigDict(extra="forbid", strict=True)

    readings: Annotated[list[BatchReading], Field(max_length=MOST_ITEMS)] = []
    messages: Annotated[list[BatchMessage], Field(max_length=MOST_ITEMS)] = []


class Refused(BaseModel):
    """An item that was not kept: its place in the batch, and why."""

    place: int
    of: Literal["readings", "messages"]
    why: str


class BatchAnswer(BaseModel):
    """What became of a batch: how many were new, how many were known already, and which were refused."""

    kept: int
    known: int
    unknown_topics: int
    refused: list[Refused]


@dataclass(frozen=True, slots=True)
class _Row:
    record: SeriesRecord
    at_ms: int
    value: float


def new_token(app: App, home_id: str, name: str) -> str:
    """Return a new token of a home's link; only its digest is kept, so it is told once."""
    token = TOKEN_START + secrets.token_urlsafe(TOKEN_BYTES)
    app.live_homes.add_token(home_id, name, digest_of(token), app.now_ms())
    return token


def digest_of(token: str) -> str:
    """Return what of a token is kept."""
    return hashlib.sha256(token.encode()).hexdigest()


def home_of_bearer(app: App, header: str) -> str | None:
    """Return the home that an Authorization header opens, None if none."""
    word, _, token = header.partition(" ")
    if word.casefold() != "bearer" or not token.startswith(TOKEN_START) or len(token) > 100:
        return None
    return app.live_homes.home_of_token(digest_of(token.strip()), app.now_ms())


def take_batch(app: App, home_id: str, batch: Batch) -> BatchAnswer:
    """Keep a batch in one transaction; what is refused does not keep the rest from being kept."""
    home, _ = app.homes.load(home_id)
    real_ms = app.now_ms()
    live = app.live_homes.find(home_id)
    now_ms = real_ms if live is None else live.clock.home_at(real_ms)
    refused: list[Refused] = []
    rows: list[_Row] = []
    subjects = _subjects(home)
    for place, item in enumerate(batch.readings):
        try:
            rows.append(_reading(item, subjects, now_ms))
        except WarmeterError as error:
            refused.append(Refused(place=place, of="readings", why=str(error)))
    unknown = 0
    chooser, traffic = MappingChooser(home), LinkTraffic()
    for place, message in enumerate(batch.messages):
        heard = LinkMessage(topic=message.topic, payload=message.payload.encode(), heard_ms=now_ms)
        mapped = [(m, subject) for m, subject in chooser.of(message.topic) if subject is not None]
        topic = traffic.of(message.topic)
        topic.hear(heard)
        topic.is_mapped = bool(mapped)
        unknown += not mapped
        for mapping, subject in mapped:
            try:
                told = message_reading(mapping, heard)
            except MessageRefused as error:
                topic.refuse(error.kind)
                refused.append(Refused(place=place, of="messages", why=str(error)))
                continue
            rows.append(_Row(record_of(mapping, subject or ""), told.at_ms, told.value))
    ids = {record: app.live_readings.series_id(home_id, record) for record in {row.record for row in rows}}
    heard_rows = [
        HeardReading(series_id=ids[r.record], at_ms=r.at_ms, value=r.value, heard_ms=now_ms, real_ms=real_ms)
        for r in rows
    ]
    kept = app.live_readings.add(heard_rows)
    app.live_homes.keep_topics(home_id, [kept_topic(each) for each in traffic.topics.values()])
    return BatchAnswer(kept=kept, known=len(rows) - kept, unknown_topics=unknown, refused=refused)


def _subjects(home: Home) -> dict[str, str]:
    """Return ids of parts by what they may be called: id, address, name; a name that two bear is none."""
    found: dict[str, str] = {}
    twice: set[str] = set()
    names = part_names(home.rooms, home.devices, home.appliances, home.people)
    for part_id, said in names.items():
        name = said.strip().casefold()
        twice |= {name} if name in found else set()
        found.setdefault(name, part_id)
    for name in twice:
        del found[name]
    found |= {device.address: device.id for device in home.devices if device.address}
    return found | {part_id: part_id for part_id in names}


def _reading(item: BatchReading, subjects: dict[str, str], now_ms: int) -> _Row:
    quantity = QUANTITIES.get(item.quantity)
    if quantity is None:
        raise ReadingError(f"{item.quantity!r} is no quantity; the page Links lists them")
    said = item.subject.strip()
    subject = "" if not said else subjects.get(said, subjects.get(said.casefold(), ""))
    if said and not subject:
        raise ReadingError(f"{said!r} is no room, device or appliance of this home, or two bear this name")
    if not said and quantity.needs_subject:
        raise ReadingError(f"{quantity.label} belongs to a room, a device or an appliance: say which as subject")
    unit = item.unit or quantity.unit
    kind: Kind = item.kind or ("held" if quantity.is_held else "instant")
    record = SeriesRecord(
        quantity=quantity.key,
        unit=unit,
        kind=kind,
        stamp="instant",
        step_s=0,
        longest_hold_s=USUAL_HOLD_S[kind],
        subject=subject,
    )
    stored = to_stored(item.value, quantity=quantity.key, unit=unit)
    if not is_energy(unit) and not quantity.low <= stored <= quantity.high:
        raise ReadingError(f"{item.value:g} {unit} is beyond what {quantity.label} can be")
    at_ms = now_ms if item.at is None else to_ms(item.at)
    if not now_ms - BEHIND_MS <= at_ms <= now_ms + AHEAD_MS:
        told = datetime.fromtimestamp(at_ms / 1000, UTC).isoformat(timespec="seconds")
        raise ReadingError(f"{told} lies more than 7 days back or 2 min ahead of the home's clock; import it as a log")
    return _Row(record, min(at_ms, now_ms), item.value)
