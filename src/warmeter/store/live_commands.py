"""Firings, commands, alerts, tellings and answers of homes that are linked live: written down before anything is done."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, and_, select, update
from sqlalchemy.dialects.mysql import insert

from warmeter.core.live.command_run import OPEN_STATES, CommandRun, CommandState
from warmeter.store.engine import in_transaction, insert_row, reading
from warmeter.store.tables import LIVE_COMMAND, LIVE_FIRING


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFiring:
    """When a rule fired live, when and why it ended, when that was seen [ms, home].

    ``targets`` are what it switches, ``found`` the states in which it found those of them that were heard.
    """

    rule_id: str
    at_ms: int
    end_ms: int | None
    why: str
    seen_ms: int
    found: Mapping[str, float]
    targets: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptCommand:
    """A command with its number, whose claim it carries out, and when that was by the home's clock [ms]."""

    id: int
    does: str
    kind: str
    at_ms: int
    run: CommandRun


class LiveCommandStore:
    """What rules did, and what devices were asked."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def keep_firing(self, home_id: str, firing: KeptFiring) -> None:
        """Keep a firing, or its end; when it was first seen and what it found stay as they were."""
        values = {
            "home_id": home_id,
            "rule_id": firing.rule_id,
            "at_ms": firing.at_ms,
            "end_ms": firing.end_ms,
            "why": firing.why,
            "seen_ms": firing.seen_ms,
            "found": json.dumps({"states": dict(firing.found), "targets": firing.targets}),
        }
        made = insert(LIVE_FIRING).values(**values)
        with self._engine.begin() as connection:
            connection.execute(made.on_duplicate_key_update(end_ms=firing.end_ms, why=firing.why))

    def firings(self, home_id: str, since_ms: int) -> list[KeptFiring]:
        """Return a home's firings that began since an instant, or have not ended before it [ms, home], in order."""
        where = and_(
            LIVE_FIRING.c.home_id == home_id,
            (LIVE_FIRING.c.at_ms >= since_ms) | LIVE_FIRING.c.end_ms.is_(None) | (LIVE_FIRING.c.end_ms >= since_ms),
        )
        query = select(LIVE_FIRING).where(where).order_by(LIVE_FIRING.c.at_ms, LIVE_FIRING.c.rule_id)
        with reading(self._engine) as connection:
            rows = connection.execute(query).all()
        return [
            KeptFiring(
                rule_id=r.rule_id,
                at_ms=r.at_ms,
                end_ms=r.end_ms,
                why=r.why,
                seen_ms=r.seen_ms,
                found=json.loads(r.found)["states"],
                targets=tuple(json.loads(r.found)["targets"]),
            )
            for r in rows
        ]

    def add(self, home_id: str, command: KeptCommand) -> int:
        """Write a command down and return its number; those of its target that were open are overtaken by it."""
        run = command.run
        values = {**_columns(run), "does": command.does, "kind": command.kind, "at_ms": command.at_ms}
        same = and_(
            LIVE_COMMAND.c.home_id == home_id,
            LIVE_COMMAND.c.target_id == run.target_id,
            LIVE_COMMAND.c.does == command.does,
            LIVE_COMMAND.c.state.in_(tuple(OPEN_STATES)),
        )

        def write(connection: Any) -> int:
            connection.execute(update(LIVE_COMMAND).where(same).values(state="overtaken"))
            return insert_row(connection, LIVE_COMMAND, home_id=home_id, **values)

        return in_transaction(self._engine, write)

    def keep(self, command_id: int, run: CommandRun) -> None:
        """Keep what became of a command; one that was overtaken meanwhile stays so."""
        where = and_(LIVE_COMMAND.c.id == command_id, LIVE_COMMAND.c.state.in_(tuple(OPEN_STATES)))
        changed = {"state": run.state, "sent_ms": _told(run.sent_ms), "answered_ms": run.answered_ms}
        with self._engine.begin() as connection:
            connection.execute(update(LIVE_COMMAND).where(where).values(**changed))

    def open(self, home_id: str) -> list[KeptCommand]:
        """Return a home's commands that are still to be sent or confirmed, in order."""
        where = and_(LIVE_COMMAND.c.home_id == home_id, LIVE_COMMAND.c.state.in_(tuple(OPEN_STATES)))
        return self._listed(where, newest=False, most=10_000)

    def newest(self, home_id: str) -> dict[tuple[str, str], KeptCommand]:
        """Return the newest command of each target and what it does, whatever became of it."""
        ids = (
            select(LIVE_COMMAND.c.id)
            .where(LIVE_COMMAND.c.home_id == home_id)
            .order_by(LIVE_COMMAND.c.id.desc())
            .limit(NEWEST)
        )
        with reading(self._engine) as connection:
            lowest = min(connection.execute(ids).scalars().all(), default=0)
        rows = self._listed(and_(LIVE_COMMAND.c.home_id == home_id, LIVE_COMMAND.c.id >= lowest), newest=False)
        return {(row.run.target_id, row.does): row for row in rows}

    def last(self, home_id: str, most: int) -> list[KeptCommand]:
        """Return a home's last commands, the newest first."""
        return self._listed(LIVE_COMMAND.c.home_id == home_id, newest=True, most=most)

    def _listed(self, where: Any, *, newest: bool, most: int = 10_000) -> list[KeptCommand]:
        order = LIVE_COMMAND.c.id.desc() if newest else LIVE_COMMAND.c.id
        with reading(self._engine) as connection:
            rows = connection.execute(select(LIVE_COMMAND).where(where).order_by(order).limit(most)).all()
        return [
            KeptCommand(
                id=r.id,
                does=r.does,
                kind=r.kind,
                at_ms=r.at_ms,
                run=CommandRun(
                    mapping_id=r.mapping_id,
                    target_id=r.target_id,
                    value=r.value,
                    reason=r.reason,
                    made_ms=r.made_ms,
                    state=_state(r.state),
                    sent_ms=tuple(json.loads(r.sent_ms)),
                    answered_ms=r.answered_ms,
                    expects=None if r.expects is None else bool(r.expects),
                ),
            )
            for r in rows
        ]


NEWEST = 5000


def _state(word: str) -> CommandState:
    return word  # type: ignore[return-value]  # as it was written


def _told(instants: Iterable[int]) -> str:
    return json.dumps(list(instants))


def _columns(run: CommandRun) -> dict[str, object]:
    return {
        "target_id": run.target_id,
        "mapping_id": run.mapping_id,
        "value": run.value,
        "reason": run.reason[:400],
        "state": run.state,
        "made_ms": run.made_ms,
        "sent_ms": _told(run.sent_ms),
        "answered_ms": run.answered_ms,
        "expects": run.expects,
    }
