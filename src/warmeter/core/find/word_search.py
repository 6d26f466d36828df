"""Things found by words: each word asked must begin a word of what is found."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from unicodedata import combining, normalize

_WORD = re.compile(r"\w+")


@dataclass(frozen=True, slots=True, kw_only=True)
class Findable:
    """What can be found: its sort, its name, other words that lead to it, and where it is."""

    sort: str
    name: str
    words: str = ""
    url: str = ""


def plain(text: str) -> str:
    """Return a text as it is compared: no capitals, no marks on letters."""
    return "".join(c for c in normalize("NFKD", text.casefold()) if not combining(c))


def found(entries: Iterable[Findable], asked: str, most: int = 40) -> list[Findable]:
    """Return what some words lead to, those whose names begin with the first word before the others; in their order else.

    Nothing asked finds nothing.
    """
    wanted = _WORD.findall(plain(asked))
    if not wanted:
        return []
    ranked = []
    for place, entry in enumerate(entries):
        name = _WORD.findall(plain(entry.name))
        every = [*name, *_WORD.findall(plain(f"{entry.sort} {entry.words}"))]
        if all(any(word.startswith(each) for word in every) for each in wanted):
            in_name = sum(any(word.startswith(each) for word in name) for each in wanted)
            begins = bool(name) and name[0].startswith(wanted[0])
            ranked.append(((-in_name, not begins, place), entry))
    return [entry for _, entry in sorted(ranked, key=lambda each: each[0])[:most]]
