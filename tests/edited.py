"""A home changed by a function and saved, as commands do it."""

from collections.abc import Callable

from warmeter.core.edits.edit import Apply
from warmeter.core.home.document import Home
from warmeter.service.app import App, Person
from warmeter.service.homes.editing import edit_home


def save_change(
    app: App, home_id: str, base: int, person: Person, summary: str, change: Callable[[Home], Home], fold: str = ""
) -> int:
    """Save a changed home and return the number of its revision."""
    return edit_home(app, home_id, base, person, Apply(change=change, summary=summary, fold=fold))[1]
