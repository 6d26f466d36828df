"""Photos of a home's parts and steps, kept in the database, bounded in number and size."""

from dataclasses import dataclass

from sqlalchemy import Engine, func, select, update

from warmeter.core.errors import ReadingError
from warmeter.store.engine import insert_row, reading
from warmeter.store.homes import note_change
from warmeter.store.memo import forget, remembered
from warmeter.store.photo_cleaning import CleanPhoto
from warmeter.store.tables import PHOTO

MOST_PHOTOS = 300  # of a home, removed ones among them


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoLine:
    """A photo without its picture: what it is about, at which step, by whom and when; ``removed_ms`` where it was removed."""

    id: int
    about_id: str
    step: str
    taken_ms: int
    by: str
    width: int
    height: int
    removed_ms: int | None


class PhotoStore:
    """Photos in the database."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def add(self, home_id: str, about_id: str, step: str, at_ms: int, by: str, photo: CleanPhoto) -> int:
        """Keep a photo and return its number.

        Raises
        ------
        ReadingError
            If the home has as many as are kept.
        """
        with self._engine.begin() as connection:
            count = connection.execute(select(func.count()).where(PHOTO.c.home_id == home_id)).scalar_one()
            if count >= MOST_PHOTOS:
                raise ReadingError(f"this home has {MOST_PHOTOS} photos, which is as many as are kept")
            note_change(connection, home_id)
            number = insert_row(
                connection,
                PHOTO,
                home_id=home_id,
                about_id=about_id,
                step=step,
                taken_ms=at_ms,
                author=by,
                width=photo.width,
                height=photo.height,
                data=photo.data,
            )
        forget()
        return number

    def lines(self, home_id: str) -> list[PhotoLine]:
        """Return a home's photos without their pictures, the oldest first."""
        return remembered(("photos", self._engine, home_id), lambda: self._lines(home_id))

    def _lines(self, home_id: str) -> list[PhotoLine]:
        columns = (
            PHOTO.c.id,
            PHOTO.c.about_id,
            PHOTO.c.step,
            PHOTO.c.taken_ms,
            PHOTO.c.author,
            PHOTO.c.width,
            PHOTO.c.height,
            PHOTO.c.removed_ms,
        )
        with reading(self._engine) as connection:
            rows = connection.execute(select(*columns).where(PHOTO.c.home_id == home_id).order_by(PHOTO.c.id)).all()
        return [
            PhotoLine(
                id=row.id,
                about_id=row.about_id,
                step=row.step,
                taken_ms=row.taken_ms,
                by=row.author,
                width=row.width,
                height=row.height,
                removed_ms=row.removed_ms,
            )
            for row in rows
        ]

    def picture(self, home_id: str, number: int) -> bytes | None:
        """Return a photo's JPEG; None if it is not there."""
        with reading(self._engine) as connection:
            query = select(PHOTO.c.data).where(PHOTO.c.home_id == home_id, PHOTO.c.id == number)
            found = connection.execute(query).scalar()
        return None if found is None else bytes(found)

    def mark(self, home_id: str, number: int, removed_ms: int | None) -> bool:
        """Remove a photo from sight at an instant, or bring it back (None); return whether it was there."""
        with self._engine.begin() as connection:
            note_change(connection, home_id)
            changed = connection.execute(
                update(PHOTO).where(PHOTO.c.home_id == home_id, PHOTO.c.id == number).values(removed_ms=removed_ms)
            )
        forget()
        return changed.rowcount > 0
