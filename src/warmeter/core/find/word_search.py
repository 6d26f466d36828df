"""Things found by words: each word asked must begin a word of what is found."""

from collections.abc import Iterable
from dataclasses import dataclass
from unicodedata import combining, normalize


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


def words_of(text: str) -> list[str]:
    """Return the words of a text as they are compared: letters and digits, parted by anything else."""
    return "".join(c if c.isalnum() else " " for c in plain(text)).split()


def found(entries: Iterable[Findable], asked: str, most: int = 40) -> list[Findable]:
    """Return what some words lead to, those whose names begin with the first word before the others; in their order else.

    Nothing asked finds nothing.
    """
    wanted = words_of(asked)
    if not wanted:
        return []
    ranked = []
    for place, entry in enumerate(entries):
        name = words_of(entry.name)
        every = [*name, *words_of(f"{entry.sort} {entry.words}")]
        if all(any(word.startswith(each) for word in every) for each in wanted):
            in_name = sum(any(word.startswith(each) for word in name) for each in wanted)
            begins = bool(name) and name[0].startswith(wanted[0])
            ranked.append(((-in_name, not begins, place), entry))
    return [entry for _, entry in sorted(ranked, key=lambda each: each[0])[:most]]
