"""A photo taken into a home: cleaned, and only about what is there."""

from warmeter.core.errors import HomeError, ReadingError
from warmeter.core.home.checklist_steps import STEPS
from warmeter.service.app import App, Person
from warmeter.service.limits import MB
from warmeter.store.photo_cleaning import clean_photo

PHOTO_BYTES = 15 * MB


def take_photo(app: App, home_id: str, about_id: str, step: str, data: bytes, person: Person) -> int:
    """Keep a photo of a part of a home, or of a step of one of its checklists; return its number.

    Raises
    ------
    HomeError
        If what it is about is not there, or the checklist has no such step.
    ReadingError
        If it is no picture, too large, or one too many.
    """
    home, _ = app.homes.load(home_id)
    checklist = next((each for each in home.checklists if each.id == about_id), None)
    if checklist is not None and step not in {each.key for each in STEPS[checklist.kind]}:
        raise HomeError("this checklist has no such step")
    if checklist is None and (step or about_id not in {part.id for part in home.parts()}):
        raise HomeError("what the photo is about is not there any more")
    if not data:
        raise ReadingError("no picture was sent; choose one first")
    if len(data) > PHOTO_BYTES:
        raise ReadingError(f"this picture is larger than {PHOTO_BYTES // MB} MB; send a smaller one")
    return app.photos.add(home_id, about_id, step, app.now_ms(), person.name, clean_photo(data))
