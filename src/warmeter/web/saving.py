"""Forms read as commands, done to a home and saved as one revision."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import Request

from warmeter.core.edits.edit import Command, Edit
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.service.homes.editing import edit_home
from warmeter.web.form_reader import Texts, read_form
from warmeter.web.page import app_of, person_of

Commands = Mapping[str, type[Command]]


@dataclass(frozen=True, slots=True)
class _Base:
    """The revision that a form was made of."""

    base: Annotated[int, Ge(0), Le(10**9)]


def save(request: Request, home_id: str, texts: Texts, command: Command | Callable[[Home], Command]) -> Edit:
    """Do a command, or the one made for the home as it is, and save what comes of it.

    Raises
    ------
    WarmeterError
        If it cannot be done; nothing is saved then.
    RevisionConflict
        If another window saved meanwhile.
    """
    base = read_form(_Base, texts).base
    return edit_home(app_of(request), home_id, base, person_of(request), command)[0]


def command_named(commands: Commands, name: str) -> type[Command]:
    """Return the kind of command of a name; ``HomeError`` if there is none."""
    if name not in commands:
        raise HomeError("there is no such act")
    return commands[name]


def save_form(request: Request, home_id: str, texts: Texts, commands: Commands, name: str) -> Edit:
    """Read a form as the command of a name, do it and save what comes of it; ``FormError`` if fields are wrong."""
    kind = command_named(commands, name)
    return save(request, home_id, texts, lambda home: read_form(kind, texts, home.units))
