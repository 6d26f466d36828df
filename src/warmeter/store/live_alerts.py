"""Alerts of homes that are linked live: one for one cause, who was told of it by which channel, and what was answered."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, and_, select, update
from sqlalchemy.dialects.mysql import insert

from warmeter.core.live.alerts import AlertAnswer, AnswerKind
from warmeter.store.engine import reading
from warmeter.store.tables import LIVE_ALERT, LIVE_ANSWER, LIVE_TELLING


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptAlert:
    """An alert: its cause, when that began and ended, when it was closed [ms, home], its text, and how it is told."""

    id: int
    cause: str
    begun_ms: int
    ended_ms: int | None
    closed_ms: int | None
    text: str
    detail: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptTelling:
    """A group told by a channel: due when [ms, home], when it was tried [ms, machine], what became of it, how long it took."""

    id: int
    alert_id: int
    group_id: str
    channel_id: str
    at_ms: int
    real_ms: int
    state: str
    delay_ms: int | None
    why: str


class LiveAlertStore:
    """Alerts, tellings and answers."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def begin(self, home_id: str, cause: str, begun_ms: int, text: str, detail: Mapping[str, Any]) -> None:
        """Keep an alert; one of the same cause that began at the same instant is the same."""
        row = {"home_id": home_id, "cause": cause, "begun_ms": begun_ms, "text": text[:400]}
        made = insert(LIVE_ALERT).values(**row, detail=json.dumps(dict(detail))).prefix_with("IGNORE")
        with self._engine.begin() as connection:
            connection.execute(made)

    def end(self, alert_id: int, ended_ms: int | None, closed_ms: int | None) -> None:
        """Keep when the cause of an alert ended, and when it was closed [ms, home]."""
        change = update(LIVE_ALERT).where(LIVE_ALERT.c.id == alert_id)
        with self._engine.begin() as connection:
            connection.execute(change.values(ended_ms=ended_ms, closed_ms=closed_ms))

    def open(self, home_id: str) -> list[KeptAlert]:
        """Return a home's alerts that are not closed, the oldest first."""
        return self._listed(and_(LIVE_ALERT.c.home_id == home_id, LIVE_ALERT.c.closed_ms.is_(None)), 1000)

    def last(self, home_id: str, most: int) -> list[KeptAlert]:
        """Return a home's last alerts, the newest first."""
        return self._listed(LIVE_ALERT.c.home_id == home_id, most, newest=True)

    def alert(self, home_id: str, alert_id: int) -> KeptAlert | None:
        """Return an alert of a home, None if it is not there."""
        found = self._listed(and_(LIVE_ALERT.c.home_id == home_id, LIVE_ALERT.c.id == alert_id), 1)
        return found[0] if found else None

    def _listed(self, where: Any, most: int, *, newest: bool = False) -> list[KeptAlert]:
        order = LIVE_ALERT.c.id.desc() if newest else LIVE_ALERT.c.id
        with reading(self._engine) as connection:
            rows = connection.execute(select(LIVE_ALERT).where(where).order_by(order).limit(most)).all()
        return [
            KeptAlert(
                id=r.id,
                cause=r.cause,
                begun_ms=r.begun_ms,
                ended_ms=r.ended_ms,
                closed_ms=r.closed_ms,
                text=r.text,
                detail=json.loads(r.detail),
            )
            for r in rows
        ]

    def tellings(self, alert_ids: list[int]) -> list[KeptTelling]:
        """Return who was told of some alerts, in order."""
        if not alert_ids:
            return []
        query = select(LIVE_TELLING).where(LIVE_TELLING.c.alert_id.in_(alert_ids)).order_by(LIVE_TELLING.c.id)
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return [
            KeptTelling(
                id=r.id,
                alert_id=r.alert_id,
                group_id=r.group_id,
                channel_id=r.channel_id,
                at_ms=r.at_ms,
                real_ms=r.real_ms,
                state=r.state,
                delay_ms=r.delay_ms,
                why=r.why,
            )
            for r in rows
        ]

    def claim_telling(self, alert_id: int, group_id: str, channel_id: str, at_ms: int, real_ms: int) -> bool:
        """Write down that a group is being told by a channel; return whether nobody had written it before."""
        row = {
            "alert_id": alert_id,
            "group_id": group_id,
            "channel_id": channel_id,
            "at_ms": at_ms,
            "real_ms": real_ms,
            "state": "trying",
            "why": "",
        }
        with self._engine.begin() as connection:
            made = connection.execute(insert(LIVE_TELLING).values(**row).prefix_with("IGNORE"))
            return bool(made.rowcount)

    def keep_telling(
        self, alert_id: int, group_id: str, channel_id: str, at_ms: int, *, state: str, delay_ms: int | None, why: str
    ) -> None:
        """Keep what became of a telling."""
        mine = and_(
            LIVE_TELLING.c.alert_id == alert_id,
            LIVE_TELLING.c.group_id == group_id,
            LIVE_TELLING.c.channel_id == channel_id,
            LIVE_TELLING.c.at_ms == at_ms,
        )
        with self._engine.begin() as connection:
            connection.execute(update(LIVE_TELLING).where(mine).values(state=state, delay_ms=delay_ms, why=why[:200]))

    def answer(self, alert_id: int, answer: AlertAnswer) -> None:
        """Keep what somebody answered."""
        row = {
            "alert_id": alert_id,
            "at_ms": answer.at_ms,
            "kind": answer.kind,
            "by_whom": answer.by[:80],
            "until_ms": answer.until_ms,
            "label": answer.label[:40],
        }
        with self._engine.begin() as connection:
            connection.execute(LIVE_ANSWER.insert().values(**row))

    def answers(self, alert_ids: list[int]) -> dict[int, list[AlertAnswer]]:
        """Return what was answered to some alerts, in order of time."""
        found: dict[int, list[AlertAnswer]] = {}
        if not alert_ids:
            return found
        query = (
            select(LIVE_ANSWER)
            .where(LIVE_ANSWER.c.alert_id.in_(alert_ids))
            .order_by(LIVE_ANSWER.c.at_ms, LIVE_ANSWER.c.id)
        )
        with reading(self._engine) as connection:
            for r in connection.execute(query).all():
                kind: AnswerKind = r.kind
                answer = AlertAnswer(at_ms=r.at_ms, kind=kind, by=r.by_whom, until_ms=r.until_ms, label=r.label)
                found.setdefault(r.alert_id, []).append(answer)
        return found
