"""What comes and goes over links: how messages become readings, and how devices are commanded."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Quantity
from warmeter.core.home.part import Document, Id, Unit, Word
from warmeter.core.units import S_PER_DAY

PayloadForm = Literal["number", "words", "json"]
ReadingKind = Literal["instant", "mean", "counter", "held"]
CommandKind = Literal["setpoint", "cooling", "switch", "share", "text"]
Topic = Annotated[str, Len(1, 200)]
LiveMode = Literal["off", "say", "send"]


@dataclass(frozen=True, slots=True, kw_only=True)
class StateWord(Document):
    """A word of a payload and the number that it stands for: ``open`` is 1."""

    word: Annotated[str, Len(1, 40)]
    value: Annotated[float, Ge(-1e9), Le(1e9)]


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageMapping(Document):
    """How the messages of a topic become readings of one quantity.

    Parameters
    ----------
    topic : str
        A topic, or a pattern: ``+`` stands for one word, ``#`` at the end for all that follow (MQTT 3.1.1, 4.7).
    payload : str
        A number as text, one of ``words``, or JSON, in which ``path`` leads to a number or a word.
    path, time_path : str
        Where the value, and the message's own time, stand in the JSON (RFC 9535, names and places only). Without a
        ``time_path`` the time of receipt counts.
    subject_id : str
        Room, device or appliance that it belongs to; "" for the home, the meter or outdoors.
    address_level : int or None
        Which word of the topic is the address of the device that it belongs to, from 0 on; instead of ``subject_id``.
    unit, scale, offset : str, float, float
        The reading is ``scale`` × value + ``offset``, in ``unit``.
    kind, step_s, rhythm_s : str, int, int
        What a value stands for, the step of means [s], and how often it usually comes, 0 where not known [s].
    """

    id: Id
    topic: Topic
    payload: PayloadForm = "number"
    path: Word = ""
    time_path: Word = ""
    quantity: Quantity
    subject_id: Annotated[str, Len(0, 24)] = ""
    address_level: Annotated[int, Ge(0), Le(20)] | None = None
    unit: Annotated[str, Len(1, 12)]
    scale: Annotated[float, Ge(-1e6), Le(1e6)] = 1.0
    offset: Annotated[float, Ge(-1e6), Le(1e6)] = 0.0
    words: Annotated[tuple[StateWord, ...], Len(0, 20)] = ()
    kind: ReadingKind = "instant"
    step_s: Annotated[int, Ge(0), Le(S_PER_DAY), Unit("s")] = 0
    rhythm_s: Annotated[int, Ge(0), Le(S_PER_DAY), Unit("s")] = 0

    def __post_init__(self) -> None:
        if self.payload == "json" and not self.path:
            raise HomeError("a message in JSON needs the path to its value, such as $.temperature")
        if self.payload == "words" and not self.words:
            raise HomeError("a message of words needs the words and what each stands for")
        if self.subject_id and self.address_level is not None:
            raise HomeError("a message belongs to one part of the home, or to the device that its topic names")


@dataclass(frozen=True, slots=True, kw_only=True)
class CommandMapping(Document):
    """How a device, heater or appliance is commanded, and what shows that it obeyed.

    Parameters
    ----------
    target_id : str
        The device, heater or appliance.
    does : str
        A heating setpoint or a cooling limit [°C], on and off, a share (0 to 1: blinds, lamps), or a text that is
        spoken or shown.
    topic, template : str
        Where it is sent, and as what: ``{value}`` stands for the number or the word.
    on_word, off_word : str
        The words of on and off.
    is_toggle : bool
        Whether one and the same message switches by turns: it is sent once, and never again before the state is known.
    confirm_quantity, within_s, tolerance : str, int, float
        A reading of this quantity of the device itself, or of its witness, within so long and as near to what was asked
        (in the quantity's unit), shows that it obeyed. "" is blind without a witness.
    witness_from : float or None
        Where a witness tells by another quantity: at least so much while on, less while off, in that quantity's unit.
    tries : int
        How often it is sent in all before somebody is told; a toggle once.
    """

    id: Id
    target_id: Id
    does: CommandKind
    topic: Topic
    template: Annotated[str, Len(1, 400)] = "{value}"
    on_word: Annotated[str, Len(1, 40)] = "ON"
    off_word: Annotated[str, Len(1, 40)] = "OFF"
    is_toggle: bool = False
    confirm_quantity: Annotated[str, Len(0, 40)] = ""
    within_s: Annotated[int, Gt(0), Le(7200), Unit("s")] = 30
    tolerance: Annotated[float, Ge(0), Le(1000)] = 0.26
    witness_from: Annotated[float, Ge(0), Le(100_000)] | None = None
    tries: Annotated[int, Ge(1), Le(5)] = 3

    def __post_init__(self) -> None:
        if "{value}" not in self.template and not self.is_toggle:
            raise HomeError("what is sent must say where the value stands: write {value}")


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkSettings(Document):
    """What is listened to, and whether anything is sent.

    ``listens`` are topic patterns, none for ``homes/<id of the home>/#``; ``mode`` is off, only say what would be sent,
    or send; ``group_id`` is whom to tell of commands that were lost and devices that have gone quiet; ``refuses`` are
    topics and patterns of senders that were refused: a neighbour's, say.
    """

    listens: Annotated[tuple[Topic, ...], Len(0, 20)] = ()
    mode: LiveMode = "off"
    group_id: Id | None = None
    refuses: Annotated[tuple[Topic, ...], Len(0, 500)] = ()


LINK = LinkSettings()
