"""Which room, machine, device or person of the home a column names."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.readings.column_words import words_of

SubjectKind = Literal["room", "machine", "device", "person"]
# Words of names that say nothing of whose they are.
_COMMON = frozenset(
    {"room", "sensor", "floor", "machine", "heater", "radiator", "valve", "thermostat", "window", "door", "meter"}
    | {
        "temperature",
        "humidity",
        "light",
        "contact",
        "motion",
        "probe",
        "pump",
        "heat",
        "water",
        "home",
        "lamp",
        "plug",
        "telephone",
        "phone",
        "mattress",
        "presence",
    }
)
LEAST_LETTERS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class LogSubject:
    """A part of the home that a column can belong to.

    ``device_kind``, ``room_id``, ``measures`` and ``has_battery`` are a device's: the room in which it stands ("" for
    none), and the quantities that it is known to tell.
    """

    id: str
    name: str
    kind: SubjectKind
    device_kind: str = ""
    room_id: str = ""
    measures: tuple[str, ...] = ()
    has_battery: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LogSubjects:
    """The parts of a home to which columns of a log can belong; ``unit`` is the sign of the home's temperatures."""

    rooms: tuple[LogSubject, ...] = ()
    machines: tuple[LogSubject, ...] = ()
    devices: tuple[LogSubject, ...] = ()
    people: tuple[LogSubject, ...] = ()
    unit: str = "°C"

    @property
    def all(self) -> tuple[LogSubject, ...]:
        """Every part, devices first: a device's name often holds its room's."""
        return (*self.devices, *self.machines, *self.rooms, *self.people)

    def named(self, subject_id: str) -> LogSubject:
        """Return a part by its id; ``StopIteration`` cannot come of an id that a proposal gave."""
        return next(each for each in self.all if each.id == subject_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedParts:
    """The parts whose whole names stand in a heading, those of which a part of the name does, and what words are left."""

    whole: tuple[LogSubject, ...]
    partly: tuple[LogSubject, ...]
    rest: tuple[str, ...]


def named_parts(words: Sequence[str], subjects: LogSubjects) -> NamedParts:
    """Return which parts of the home the words of a heading name, the longest names first.

    A name counts whole where its words stand next to each other, written together or apart; in part, where one of its
    own words does, or the beginning of one.
    """
    left = list(words)
    whole: list[LogSubject] = []
    ranked = sorted(subjects.all, key=lambda s: -len("".join(words_of(s.name))))
    for subject in ranked:
        place = _place(left, "".join(words_of(subject.name)))
        if place is None:
            continue
        low, high = place
        same = [s for s in ranked if words_of(s.name) == words_of(subject.name)]
        whole += same if subject.id not in [w.id for w in whole] else []
        left[low:high] = [""]
    rest = tuple(word for word in left if word)
    partly = tuple(s for s in ranked if not whole and any(_is_part(word, s.name) for word in rest))
    return NamedParts(whole=tuple(whole), partly=partly, rest=rest)


def _place(words: Sequence[str], joined: str) -> tuple[int, int] | None:
    """Return where words that give a joined name stand among others."""
    for low in range(len(words)):
        text = ""
        for high in range(low, len(words)):
            text += words[high]
            if not words[high] or len(text) > len(joined):
                break
            if text == joined:
                return low, high + 1
    return None


def _is_part(word: str, name: str) -> bool:
    own = [w for w in words_of(name) if w not in _COMMON and len(w) >= LEAST_LETTERS]
    long_enough = len(word) >= LEAST_LETTERS and word not in _COMMON
    return long_enough and any(word == w or word.startswith(w) or w.startswith(word) for w in own)
