"""Jobs and the fits they leave."""

from dataclasses import dataclass

from sqlalchemy import Connection, Engine, insert, select, true, update
from sqlalchemy.dialects.mysql import insert as upsert

from warmeter.core.thermal.room_fit import RoomFit, StoredFit
from warmeter.store.codec import fit_from_bytes, fit_to_bytes
from warmeter.store.engine import insert_row, reading
from warmeter.store.homes import note_change
from warmeter.store.memo import remembered
from warmeter.store.tables import FIT, JOB, JOB_RESULT

MOST_ATTEMPTS = 3  # the first and two more after kills


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """Work that takes long: queued, running, done, failed or stopped."""

    id: int
    home_id: str
    kind: str
    subject: str
    state: str
    percent: int
    sentence: str
    revision: int
    attempts: int
    is_stop_asked: int
    at_ms: int

    @property
    def is_over(self) -> bool:
        """Whether nothing more will come of it."""
        return self.state in ("done", "failed", "stopped")


def _settle_cut_off(connection: Connection) -> None:
    """Stop, of jobs that were cut off, those asked to; fail those begun too often; queue the others."""
    cut_off = JOB.c.state == "running"
    for home_id in connection.execute(select(JOB.c.home_id).where(cut_off).distinct()).scalars().all():
        note_change(connection, home_id)
    for also, values in (
        (JOB.c.is_stop_asked == 1, {"state": "stopped", "sentence": "Stopped by you; nothing was changed"}),
        (
            JOB.c.attempts >= MOST_ATTEMPTS,
            {"state": "failed", "sentence": "Cut off three times; start it again by hand"},
        ),
        (true(), {"state": "queued", "percent": 0}),
    ):
        connection.execute(update(JOB).where(cut_off, also).values(**values))


class WorkStore:
    """Jobs and fits in the database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def enqueue(self, home_id: str, kind: str, subject: str, revision: int, at_ms: int, request: str = "") -> int:
        """Add a job and return its id; ``request`` is what it is asked, as JSON."""
        with self._engine.begin() as connection:
            job_id = insert_row(
                connection,
                JOB,
                home_id=home_id,
                kind=kind,
                subject=subject,
                state="queued",
                percent=0,
                sentence="Waiting",
                revision=revision,
                attempts=0,
                is_stop_asked=0,
                at_ms=at_ms,
            )
            if request:
                connection.execute(insert(JOB_RESULT).values(job_id=job_id, request=request))
            return job_id

    def request(self, job_id: int) -> str:
        """Return what a job was asked, "" if nothing in particular."""
        with reading(self._engine) as connection:
            found = connection.execute(select(JOB_RESULT.c.request).where(JOB_RESULT.c.job_id == job_id)).scalar()
        return found or ""

    def keep_result(self, job_id: int, document: bytes) -> None:
        """Keep what a job found."""
        with self._engine.begin() as connection:
            connection.execute(update(JOB_RESULT).where(JOB_RESULT.c.job_id == job_id).values(document=document))

    def result(self, job_id: int) -> bytes | None:
        """Return what a job found, None if it has not ended well."""
        with reading(self._engine) as connection:
            return connection.execute(select(JOB_RESULT.c.document).where(JOB_RESULT.c.job_id == job_id)).scalar()

    def latest_of_kind(self, home_id: str, kind: str, *, only_done: bool = False) -> Job | None:
        """Return a home's newest job of a kind, or the newest that ended well."""
        query = select(JOB).where(JOB.c.home_id == home_id, JOB.c.kind == kind)
        if only_done:
            query = query.where(JOB.c.state == "done")
        with reading(self._engine) as connection:
            row = connection.execute(query.order_by(JOB.c.id.desc()).limit(1)).mappings().first()
        return Job(**row) if row else None

    def unfinished(self) -> list[Job]:
        """Return the jobs that wait or run."""
        query = select(JOB).where(JOB.c.state.in_(("queued", "running")))
        with reading(self._engine) as connection:
            return [Job(**row) for row in connection.execute(query).mappings()]

    def job(self, job_id: int) -> Job | None:
        """Return a job, None if it is not there."""
        with reading(self._engine) as connection:
            row = connection.execute(select(JOB).where(JOB.c.id == job_id)).mappings().first()
        return Job(**row) if row else None

    def latest(self, home_id: str, subject: str | None = None) -> Job | None:
        """Return a home's newest job, or that of a subject."""
        query = select(JOB).where(JOB.c.home_id == home_id).order_by(JOB.c.id.desc()).limit(1)
        if subject is not None:
            query = query.where(JOB.c.subject == subject)
        with reading(self._engine) as connection:
            row = connection.execute(query).mappings().first()
        return Job(**row) if row else None

    def requeue_interrupted(self) -> None:
        """Settle every job that was cut off: it runs again, unless begun too often or asked to stop."""
        with self._engine.begin() as connection:
            _settle_cut_off(connection)

    def next_queued(self) -> int | None:
        """Return the job that has waited longest, None if none waits."""
        query = select(JOB.c.id).where(JOB.c.state == "queued").order_by(JOB.c.id).limit(1)
        with reading(self._engine) as connection:
            return connection.execute(query).scalar()

    def begin(self, job_id: int) -> None:
        """Mark a job as running, one attempt more."""
        with self._engine.begin() as connection:
            connection.execute(
                update(JOB).where(JOB.c.id == job_id).values(state="running", attempts=JOB.c.attempts + 1, percent=1)
            )

    def tell(self, job_id: int, share: float, sentence: str) -> bool:
        """Note progress; return whether the job may go on."""
        with self._engine.begin() as connection:
            connection.execute(
                update(JOB).where(JOB.c.id == job_id).values(percent=round(100 * share), sentence=sentence[:400])
            )
            stop = connection.execute(select(JOB.c.is_stop_asked).where(JOB.c.id == job_id)).scalar()
        return not stop

    def end(self, job_id: int, state: str, sentence: str) -> None:
        """Close a job."""
        with self._engine.begin() as connection:
            self._note_change(connection, job_id)
            connection.execute(
                update(JOB).where(JOB.c.id == job_id).values(state=state, percent=100, sentence=sentence[:400])
            )

    def ask_stop(self, job_id: int) -> None:
        """Ask a job to stop; one that still waits is stopped at once."""
        with self._engine.begin() as connection:
            self._note_change(connection, job_id)
            connection.execute(update(JOB).where(JOB.c.id == job_id).values(is_stop_asked=1))
            connection.execute(
                update(JOB)
                .where(JOB.c.id == job_id, JOB.c.state == "queued")
                .values(state="stopped", sentence="Stopped before it began; nothing was changed")
            )

    def _note_change(self, connection: Connection, job_id: int) -> None:
        home_id = connection.execute(select(JOB.c.home_id).where(JOB.c.id == job_id)).scalar()
        if home_id is not None:
            note_change(connection, home_id)

    def save_fit(
        self, home_id: str, room_id: str, fit: RoomFit, *, log_start_ms: int, step_s: float, at_ms: int, revision: int
    ) -> None:
        """Store a room's fit in place of the one before."""
        values = {"at_ms": at_ms, "revision": revision, "document": fit_to_bytes(fit, log_start_ms, step_s)}
        with self._engine.begin() as connection:
            note_change(connection, home_id)
            connection.execute(
                upsert(FIT).values(home_id=home_id, room_id=room_id, **values).on_duplicate_key_update(**values)
            )

    def fits(self, home_id: str) -> dict[str, StoredFit]:
        """Return a home's fits by room."""
        return remembered(("fits", self._engine, home_id), lambda: self._fits(home_id))

    def _fits(self, home_id: str) -> dict[str, StoredFit]:
        with reading(self._engine) as connection:
            rows = connection.execute(select(FIT).where(FIT.c.home_id == home_id)).all()
        return {r.room_id: fit_from_bytes(r.document, at_ms=r.at_ms, revision=r.revision) for r in rows}

    def fit_stamp(self, home_id: str) -> tuple[tuple[str, int], ...]:
        """Return (room, made at) of each fit: changes when any does."""
        return remembered(("fit stamp", self._engine, home_id), lambda: self._fit_stamp(home_id))

    def _fit_stamp(self, home_id: str) -> tuple[tuple[str, int], ...]:
        with reading(self._engine) as connection:
            rows = connection.execute(select(FIT.c.room_id, FIT.c.at_ms).where(FIT.c.home_id == home_id)).all()
        return tuple((r.room_id, r.at_ms) for r in rows)
