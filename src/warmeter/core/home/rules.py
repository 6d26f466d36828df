"""Rules: what is watched, for how long, only while what, what is done then, and when it is put back."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le, Len

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition, Minute, Seconds
from warmeter.core.home.conditions.sequence import Clause, Clauses
from warmeter.core.home.part import Document, Id, Name, SetpointC, Text, Unit, Word
from warmeter.core.units import S_PER_DAY

RuleKind = Literal["safety", "window_lock", "rule"]
Loudness = Literal["quiet", "aloud", "alarm"]
WhenStale = Literal["keep", "put_back", "tell"]
Reading = Literal["becomes", "is"]
InQuiet = Literal["hold", "drop", "send"]
ChannelKind = Literal["mail", "web_hook", "lamp", "speech"]
Targets = Annotated[tuple[Id, ...], Len(1, 40)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Channel(Document):
    """A way in which a group is told; they are tried in their order, the next where one is down.

    ``device_id`` is the lamp, the sounder or the speaker of a command; ``person_id`` whose it is. The address of mail or
    of a web hook is kept beside the home's document, never in it.
    """

    id: Id
    kind: ChannelKind
    name: Name
    device_id: Id | None = None
    person_id: Id | None = None

    def __post_init__(self) -> None:
        if self.kind in ("lamp", "speech") and self.device_id is None:
            raise HomeError(f"{self.name!r} names no device; a lamp, a sound and speech go by a command to one")


@dataclass(frozen=True, slots=True, kw_only=True)
class NotificationGroup(Document):
    """People to tell, as a named group: how loud, and the quiet hours [from, until) by the home's clock.

    Parameters
    ----------
    channels : tuple of Channel
        Ways in which they are told besides the page; ``tells_all`` sends by every one of them, else the first that works.
    next_group_id, next_after_s : str or None, int
        Who is told if nobody of this group answers for so long [s].
    """

    id: Id
    name: Name
    loudness: Loudness = "aloud"
    quiet_from_min: Minute | None = None
    quiet_until_min: Minute | None = None
    goes_through_quiet: bool = False
    channels: Annotated[tuple[Channel, ...], Len(0, 12)] = ()
    tells_all: bool = False
    next_group_id: Id | None = None
    next_after_s: Annotated[int, Ge(30), Le(S_PER_DAY), Unit("s")] = 900

    def __post_init__(self) -> None:
        if self.next_group_id == self.id:
            raise HomeError(f"{self.name!r} cannot be told next after itself")

    @property
    def passes_quiet(self) -> bool:
        """Whether it is told in quiet hours too: by its own word, or because it is the loudest."""
        return self.goes_through_quiet or self.loudness == "alarm"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLevel(Document):
    """Claim a level for zones."""

    zone_ids: Targets
    level_id: Id
    wait_s: Seconds = 0
    kind: Literal["set_level"] = "set_level"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetPoint(Document):
    """Claim a heating setpoint or cooling limit for zones: a temperature, or a change of what stands [°C, K]."""

    zone_ids: Targets
    side: Literal["heating", "cooling"] = "heating"
    value_c: SetpointC | None = None
    change_k: Annotated[float, Ge(-20), Le(20)] | None = None
    wait_s: Seconds = 0
    kind: Literal["set_point"] = "set_point"

    def __post_init__(self) -> None:
        if (self.value_c is None) == (self.change_k is None):
            raise HomeError("a setpoint is given as a temperature or as a change, one of both")


@dataclass(frozen=True, slots=True, kw_only=True)
class Switch(Document):
    """Switch devices, heaters or machines on or off."""

    target_ids: Targets
    is_on: bool
    wait_s: Seconds = 0
    kind: Literal["switch"] = "switch"


@dataclass(frozen=True, slots=True, kw_only=True)
class Blinds(Document):
    """Move blinds to a share down, 0 open to 1 closed."""

    target_ids: Targets
    down: Annotated[float, Ge(0), Le(1)]
    wait_s: Seconds = 0
    kind: Literal["blinds"] = "blinds"


@dataclass(frozen=True, slots=True, kw_only=True)
class Dim(Document):
    """Bring lamps to a share of their light, evenly over a time [s]."""

    target_ids: Targets
    share: Annotated[float, Ge(0), Le(1)]
    over_s: Annotated[int, Ge(0), Le(S_PER_DAY)] = 0
    wait_s: Seconds = 0
    kind: Literal["dim"] = "dim"


@dataclass(frozen=True, slots=True, kw_only=True)
class TimedRun(Document):
    """Switch on for a time; the end is a hard stop, sent along with the start [s]."""

    target_ids: Targets
    for_s: Annotated[int, Gt(0), Le(86_400)]
    wait_s: Seconds = 0
    kind: Literal["timed_run"] = "timed_run"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShutOff(Document):
    """Shut a valve or cut a supply; a person opens it again."""

    target_ids: Targets
    wait_s: Seconds = 0
    kind: Literal["shut_off"] = "shut_off"


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkFact(Document):
    """Mark a fact as true or not."""

    word: Annotated[str, Len(1, 80)]
    is_true: bool = True
    wait_s: Seconds = 0
    kind: Literal["mark_fact"] = "mark_fact"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tell(Document):
    """Tell a group; while the rule holds again every ``repeat_s``, at most ``most`` times in all.

    With ``until_answered`` it goes on after the rule was put back, until somebody answers or says that it is done;
    ``answer`` is the word of the button that says so.
    """

    group_id: Id
    text: Text = ""
    repeat_s: Annotated[int, Ge(60), Le(86_400)] | None = None
    most: Annotated[int, Ge(1), Le(100)] = 1
    until_answered: bool = False
    answer: Annotated[str, Len(0, 40)] = ""
    wait_s: Seconds = 0
    kind: Literal["tell"] = "tell"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerChoice(Document):
    """An answer that a question offers, and the fact that it marks, "" for none."""

    label: Annotated[str, Len(1, 40)]
    word: Annotated[str, Len(0, 80)] = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ask(Document):
    """Ask a group, and mark a fact by the answer; other rules look at that fact.

    Parameters
    ----------
    answers : tuple of AnswerChoice
        What can be answered; of their facts only that of the last answer is so, and asking anew takes it back.
    none_word : str
        The fact that is marked if nobody answers in time, "" for none. It must be the safe one.
    within_s : int
        How long an answer is waited for [s].
    late_s : int
        How long after that one answer still counts [s].
    remember_s : int
        How long an answer stands for the next time, so that nobody is asked twice for the same [s].
    in_quiet : str
        In the group's quiet hours: hold the question until they end, drop it (nobody answered), or send it.
    """

    group_id: Id
    text: Text = ""
    answers: Annotated[tuple[AnswerChoice, ...], Len(1, 6)]
    none_word: Annotated[str, Len(0, 80)] = ""
    within_s: Annotated[int, Ge(60), Le(S_PER_DAY)] = 900
    late_s: Annotated[int, Ge(0), Le(S_PER_DAY)] = 0
    remember_s: Annotated[int, Ge(0), Le(7 * S_PER_DAY)] = 0
    in_quiet: InQuiet = "hold"
    wait_s: Seconds = 0
    kind: Literal["ask"] = "ask"

    def __post_init__(self) -> None:
        labels = [answer.label.strip().casefold() for answer in self.answers]
        if len(set(labels)) < len(labels):
            raise HomeError("two answers of a question read the same; let each have words of its own")

    @property
    def words(self) -> tuple[str, ...]:
        """The facts that it marks, each once."""
        said = [*(answer.word for answer in self.answers), self.none_word]
        return tuple(dict.fromkeys(word for word in said if word))

    def word_of(self, label: str | None) -> str:
        """Return the fact that an answer marks, None that of nobody answering; "" for none."""
        return next((answer.word for answer in self.answers if answer.label == label), "") if label else self.none_word


Step = SetLevel | SetPoint | Switch | Blinds | Dim | TimedRun | ShutOff | MarkFact | Tell | Ask


@dataclass(frozen=True, slots=True, kw_only=True)
class PutBack(Document):
    """When the rule's claims are released: a condition that held so long, a time after, a clock time; the first of them.

    What stands below decides then; no old number is written.
    """

    when: Clauses = ()
    for_s: Seconds = 0
    after_s: Annotated[int, Ge(1), Le(7 * S_PER_DAY)] | None = None
    at_min: Minute | None = None

    def __post_init__(self) -> None:
        if not self.when and self.after_s is None and self.at_min is None:
            raise HomeError("put back needs a condition, a time after, or a clock time")


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleLimits(Document):
    """What holds a rule in check.

    Parameters
    ----------
    min_on_s, min_off_s : int
        What it claims stands, and rests, at least this long; what is asked then counts [s].
    most_a_day : int or None
        Firings on one date by the home's clock.
    cool_off_s : int
        After an end nothing fires for so long [s].
    stale_s : int
        A value not heard for longer is not known [s].
    when_stale : str
        While it is not known: keep what stands, put it back, or keep and tell.
    lock_starts, lock_window_s, lock_for_s : int
        After so many starts within the window the next is held back, and the rule locked for so long [s];
        never a safety rule.
    """

    min_on_s: Seconds = 0
    min_off_s: Seconds = 0
    most_a_day: Annotated[int, Ge(1), Le(1000)] | None = None
    cool_off_s: Seconds = 0
    stale_s: Annotated[int, Ge(60), Le(7 * S_PER_DAY)] = 3600
    when_stale: WhenStale = "keep"
    lock_starts: Annotated[int, Ge(1), Le(100)] = 3
    lock_window_s: Annotated[int, Ge(60), Le(86_400)] = 600
    lock_for_s: Annotated[int, Ge(0), Le(86_400)] = 3600


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspension(Document):
    """A rule silent from an instant on [ms UTC], until another or until a person ends it; by whom and why."""

    from_ms: Annotated[int, Ge(0)]
    until_ms: Annotated[int, Ge(0)] | None = None
    by: Word = ""
    why: Text = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class EventMark(Document):
    """A stretch of the log that a person says the rule should have caught [ms UTC]."""

    start_ms: Annotated[int, Ge(0)]
    end_ms: Annotated[int, Ge(1)]

    def __post_init__(self) -> None:
        if self.end_ms <= self.start_ms:
            raise HomeError("an event must end after it starts")


LIMITS = RuleLimits()


@dataclass(frozen=True, slots=True, kw_only=True)
class Rule(Document):
    """A rule of the home; its place in the list decides among rules of its kind.

    Parameters
    ----------
    kind : str
        Safety, window lock or rule: how strong its claims are.
    intent : str
        What it is for, in the user's own words.
    watch, for_s : clauses, int
        What must hold, and how long all through [s].
    reading : str
        ``becomes``: a crossing is meant, it fires when the watch comes true. ``is``: the state is meant, it fires
        as soon as watch and guards hold together.
    only_while : clauses
        Looked at when it fires.
    as_long_as : clauses
        Must go on to hold; else it is put back at once.
    then : tuple of Step
        In order; each waits so long after the one before.
    is_restarted : bool
        Whether a watch that comes true again meanwhile begins Then anew; else it is ignored.
    marks : tuple of EventMark
        What a person says it should have caught.
    """

    id: Id
    name: Name
    kind: RuleKind = "rule"
    intent: Text = ""
    watch: Annotated[tuple[Clause, ...], Len(1, 12)]
    reading: Reading = "becomes"
    for_s: Seconds = 0
    only_while: Clauses = ()
    as_long_as: Clauses = ()
    then: Annotated[tuple[Step, ...], Len(1, 20)]
    put_back: PutBack | None = None
    limits: RuleLimits = LIMITS
    is_restarted: bool = False
    suspended: Suspension | None = None
    marks: Annotated[tuple[EventMark, ...], Len(0, 500)] = ()

    def __post_init__(self) -> None:
        if sum(isinstance(step, Ask) for step in self.then) > 1:
            raise HomeError("a rule asks one question; write another rule for the second")

    @property
    def question(self) -> Ask | None:
        """The question that it asks, if it does."""
        return next((step for step in self.then if isinstance(step, Ask)), None)

    @property
    def conditions(self) -> tuple[Condition, ...]:
        """Every condition that it looks at: of watch, only while, as long as and put back."""
        parts = (self.watch, self.only_while, self.as_long_as, self.put_back.when if self.put_back else ())
        return tuple(condition for clauses in parts for clause in clauses for condition in clause)

    @property
    def is_released(self) -> bool:
        """Whether putting back gives something free: what was told or marked is past, what was shut stays shut."""
        return any(not isinstance(step, Tell | Ask | MarkFact | ShutOff) for step in self.then)

    @property
    def shuts_off(self) -> bool:
        """Whether it shuts something that only a person opens again."""
        return any(isinstance(step, ShutOff) for step in self.then)

    @property
    def target_ids(self) -> tuple[str, ...]:
        """Zones, devices, heaters, machines and chains that its steps name, each once."""
        found: list[str] = []
        for step in self.then:
            if isinstance(step, SetLevel | SetPoint):
                found += step.zone_ids
            elif isinstance(step, Tell | Ask):
                found.append(step.group_id)
            elif not isinstance(step, MarkFact):
                found += step.target_ids
        return tuple(dict.fromkeys(found))
