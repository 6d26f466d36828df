"""What is known of homes that are linked live: their clocks, who writes, what was heard of whom, tokens and addresses."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Connection, Engine, and_, delete, or_, select, update
from sqlalchemy.dialects.mysql import insert

from warmeter.core.live.home_clock import HomeClock
from warmeter.store.engine import in_transaction, reading
from warmeter.store.tables import CHANNEL_ADDRESS, HEARD_TOPIC, HOME, LINK_TOKEN, LIVE_HOME


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveHome:
    """A home that is linked live.

    Parameters
    ----------
    clock : HomeClock
        Its clock.
    since_ms : int
        Since when its rules are followed [ms, home]; 0 where they never were.
    holder, lease_ms : str, int
        Who writes to it, and until when [ms, machine].
    version : int
        Grows with every look that changed something.
    looked_ms, looked_home_ms : int
        When the writer last looked [ms, machine and home].
    told : dict
        What the writer says of the link.
    """

    home_id: str
    clock: HomeClock
    since_ms: int
    holder: str
    lease_ms: int
    version: int
    looked_ms: int
    looked_home_ms: int
    told: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptTopic:
    """What was heard under a topic, as JSON, and when last [ms, home]."""

    topic: str
    last_ms: int
    detail: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkToken:
    """A token of a link, without its secret."""

    id: int
    name: str
    made_ms: int
    used_ms: int | None


class LiveHomeStore:
    """Clocks, leases, topics, tokens and addresses of homes that are linked live."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def find(self, home_id: str) -> LiveHome | None:
        """Return what is known of a home, None if it was never linked."""
        with reading(self._engine) as connection:
            row = connection.execute(select(LIVE_HOME).where(LIVE_HOME.c.home_id == home_id)).first()
        return None if row is None else _live_home(row)

    def all(self) -> list[LiveHome]:
        """Return every home that was linked and is not removed."""
        query = select(LIVE_HOME).join(HOME, HOME.c.id == LIVE_HOME.c.home_id).where(HOME.c.taken_away_ms.is_(None))
        with reading(self._engine) as connection:
            return [_live_home(row) for row in connection.execute(query).all()]

    def set_clock(self, home_id: str, clock: HomeClock) -> None:
        """Keep a home's clock; the home is linked from then on."""
        values = {"home_id": home_id, "real_ms": clock.real_ms, "home_ms": clock.home_ms, "speed": clock.speed}
        made = insert(LIVE_HOME).values(**values)
        with self._engine.begin() as connection:
            connection.execute(made.on_duplicate_key_update(**{k: v for k, v in values.items() if k != "home_id"}))

    def set_since(self, home_id: str, since_ms: int) -> None:
        """Keep since when a home's rules are followed [ms, home]."""
        with self._engine.begin() as connection:
            connection.execute(update(LIVE_HOME).where(LIVE_HOME.c.home_id == home_id).values(since_ms=since_ms))

    def lease(self, home_id: str, holder: str, now_ms: int, until_ms: int) -> bool:
        """Take or renew the right to write to a home, at an instant of the machine's clock; return whether it was got."""
        free = or_(LIVE_HOME.c.holder == holder, LIVE_HOME.c.lease_ms <= now_ms, LIVE_HOME.c.holder == "")
        change = update(LIVE_HOME).where(and_(LIVE_HOME.c.home_id == home_id, free))

        def take(connection: Connection) -> bool:
            # A row that is there and says the same already changes nothing: look who holds it.
            connection.execute(change.values(holder=holder, lease_ms=until_ms))
            held = select(LIVE_HOME.c.holder).where(LIVE_HOME.c.home_id == home_id)
            return bool(connection.execute(held).scalar() == holder)

        return in_transaction(self._engine, take)

    def release(self, home_id: str, holder: str) -> None:
        """Give the right to write back."""
        mine = and_(LIVE_HOME.c.home_id == home_id, LIVE_HOME.c.holder == holder)
        with self._engine.begin() as connection:
            connection.execute(update(LIVE_HOME).where(mine).values(holder="", lease_ms=0))

    def looked(self, home_id: str, real_ms: int, home_ms: int, told: Mapping[str, Any]) -> None:
        """Keep that the writer looked, and what it says."""
        values = {"looked_ms": real_ms, "looked_home_ms": home_ms, "told": json.dumps(told)}
        change = update(LIVE_HOME).where(LIVE_HOME.c.home_id == home_id)
        with self._engine.begin() as connection:
            connection.execute(change.values(version=LIVE_HOME.c.version + 1, **values))

    def version(self, home_id: str) -> int:
        """Return what grows with every look that changed something, 0 for a home that was never linked."""
        with reading(self._engine) as connection:
            found = connection.execute(select(LIVE_HOME.c.version).where(LIVE_HOME.c.home_id == home_id)).scalar()
        return int(found or 0)

    def keep_topics(self, home_id: str, topics: list[KeptTopic]) -> None:
        """Keep what was heard under topics."""
        if not topics:
            return
        rows = [
            {"home_id": home_id, "topic": t.topic, "last_ms": t.last_ms, "detail": json.dumps(t.detail)} for t in topics
        ]
        made = insert(HEARD_TOPIC)
        grown = made.on_duplicate_key_update(last_ms=made.inserted.last_ms, detail=made.inserted.detail)
        with self._engine.begin() as connection:
            connection.execute(grown, rows)

    def topics(self, home_id: str) -> list[KeptTopic]:
        """Return what was heard under each topic, by its name."""
        query = select(HEARD_TOPIC).where(HEARD_TOPIC.c.home_id == home_id).order_by(HEARD_TOPIC.c.topic)
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return [KeptTopic(topic=r.topic, last_ms=r.last_ms, detail=json.loads(r.detail)) for r in rows]

    def forget_topics(self, home_id: str, before_ms: int) -> None:
        """Forget topics that were last heard before an instant [ms, home]."""
        old = and_(HEARD_TOPIC.c.home_id == home_id, HEARD_TOPIC.c.last_ms < before_ms)
        with self._engine.begin() as connection:
            connection.execute(delete(HEARD_TOPIC).where(old))

    def add_token(self, home_id: str, name: str, digest: str, made_ms: int) -> None:
        """Keep a token's digest; the token itself is kept nowhere."""
        with self._engine.begin() as connection:
            connection.execute(LINK_TOKEN.insert().values(home_id=home_id, name=name, digest=digest, made_ms=made_ms))

    def end_token(self, home_id: str, token_id: int, at_ms: int) -> None:
        """End a token: nothing comes in by it any more."""
        mine = and_(LINK_TOKEN.c.home_id == home_id, LINK_TOKEN.c.id == token_id)
        with self._engine.begin() as connection:
            connection.execute(update(LINK_TOKEN).where(mine).values(ended_ms=at_ms))

    def tokens(self, home_id: str) -> list[LinkToken]:
        """Return a home's tokens that have not ended."""
        query = select(LINK_TOKEN).where(LINK_TOKEN.c.home_id == home_id, LINK_TOKEN.c.ended_ms.is_(None))
        with reading(self._engine) as connection:
            rows = connection.execute(query.order_by(LINK_TOKEN.c.id)).all()
        return [LinkToken(id=r.id, name=r.name, made_ms=r.made_ms, used_ms=r.used_ms) for r in rows]

    def home_of_token(self, digest: str, at_ms: int) -> str | None:
        """Return the home that a token's digest opens, None if none; that it was used is kept, to the minute."""
        mine = and_(LINK_TOKEN.c.digest == digest, LINK_TOKEN.c.ended_ms.is_(None))
        with reading(self._engine) as connection:
            row = connection.execute(select(LINK_TOKEN).where(mine)).first()
        if row is None:
            return None
        if row.used_ms is None or at_ms - row.used_ms > USED_MS:
            with self._engine.begin() as connection:
                connection.execute(update(LINK_TOKEN).where(LINK_TOKEN.c.id == row.id).values(used_ms=at_ms))
        return str(row.home_id)

    def addresses(self, home_id: str) -> dict[str, str]:
        """Return the addresses of a home's channels."""
        query = select(CHANNEL_ADDRESS).where(CHANNEL_ADDRESS.c.home_id == home_id)
        with reading(self._engine) as connection:
            return {r.channel_id: r.address for r in connection.execute(query).all()}

    def set_address(self, home_id: str, channel_id: str, address: str) -> None:
        """Keep the address of a channel; an empty one is forgotten."""
        mine = and_(CHANNEL_ADDRESS.c.home_id == home_id, CHANNEL_ADDRESS.c.channel_id == channel_id)
        with self._engine.begin() as connection:
            connection.execute(delete(CHANNEL_ADDRESS).where(mine))
            if address:
                row = {"home_id": home_id, "channel_id": channel_id, "address": address}
                connection.execute(CHANNEL_ADDRESS.insert().values(**row))


USED_MS = 60_000


def _live_home(row: Any) -> LiveHome:
    return LiveHome(
        home_id=row.home_id,
        clock=HomeClock(real_ms=row.real_ms, home_ms=row.home_ms, speed=row.speed),
        since_ms=row.since_ms,
        holder=row.holder,
        lease_ms=row.lease_ms,
        version=row.version,
        looked_ms=row.looked_ms,
        looked_home_ms=row.looked_home_ms,
        told=json.loads(row.told or "{}"),
    )
