"""A command on its way: written down, sent, confirmed by a reading, sent again, given up; a toggle never twice."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from warmeter.core.home.links import CommandMapping
from warmeter.core.units import MS_PER_S

CommandState = Literal["said", "waiting", "sent", "confirmed", "unconfirmed", "lost", "overtaken"]
OPEN_STATES: frozenset[CommandState] = frozenset({"waiting", "sent"})
STATE_WORDS: dict[CommandState, str] = {
    "said": "only said, not sent",
    "waiting": "waits to be sent",
    "sent": "sent, not yet confirmed",
    "confirmed": "confirmed",
    "unconfirmed": "sent; nothing can confirm it",
    "lost": "not confirmed: it did not obey, or nobody heard",
    "overtaken": "overtaken by a later one",
}
PERCENT = 100.0
TELLING_K = 1.0
TIMES_BETWEEN = 2.0  # each further try waits so many times as long


@dataclass(frozen=True, slots=True, kw_only=True)
class CommandRun:
    """A command and what became of it; times are the machine's [ms UTC], so that speed does not move them.

    Parameters
    ----------
    value : float
        What is asked, as ``AskedValue``.
    made_ms : int
        When it was decided.
    sent_ms : tuple of int
        When it was sent, each try.
    answered_ms : int or None
        When a reading confirmed it.
    expects : bool or None
        Whether a witness should then run, where only a witness can tell; None where it cannot tell either.
    """

    mapping_id: str
    target_id: str
    value: float
    reason: str
    made_ms: int
    state: CommandState = "waiting"
    sent_ms: tuple[int, ...] = ()
    answered_ms: int | None = None
    expects: bool | None = None

    @property
    def is_open(self) -> bool:
        """Whether something is still to be done or heard."""
        return self.state in OPEN_STATES

    @property
    def delay_ms(self) -> int | None:
        """How long after it was first sent the answer came [ms]."""
        return None if self.answered_ms is None or not self.sent_ms else self.answered_ms - self.sent_ms[0]


@dataclass(frozen=True, slots=True)
class ShownState:
    """A reading that may show what a device does: when it was heard [ms, the machine's clock], and its value."""

    heard_ms: int
    value: float


def due_ms(run: CommandRun, mapping: CommandMapping) -> int | None:
    """Return when a command must next be looked at, None if never [ms, the machine's clock]."""
    if run.state == "waiting":
        return run.made_ms
    if run.state != "sent":
        return None
    wait = mapping.within_s * MS_PER_S * TIMES_BETWEEN ** (len(run.sent_ms) - 1)
    return run.sent_ms[-1] + round(wait)


def sent(run: CommandRun, mapping: CommandMapping, now_ms: int) -> CommandRun:
    """Return a command as sent now; one that nothing can confirm is over with that."""
    is_shown = mapping.confirm_quantity and (mapping.witness_from is None or run.expects is not None)
    state: CommandState = "sent" if is_shown else "unconfirmed"
    return replace(run, state=state, sent_ms=(*run.sent_ms, now_ms))


def heard(run: CommandRun, mapping: CommandMapping, shown: Sequence[ShownState]) -> CommandRun:
    """Return a command confirmed by the first reading heard since it was sent that shows what was asked."""
    if run.state != "sent":
        return run
    since = run.sent_ms[0]
    for each in shown:
        if each.heard_ms >= since and shows(mapping, run, each.value):
            return replace(run, state="confirmed", answered_ms=each.heard_ms)
    return run


def shows(mapping: CommandMapping, run: CommandRun, value: float) -> bool:
    """Return whether a reading shows what was asked: a witness's by its threshold, else as near as the tolerance."""
    if mapping.witness_from is not None:
        return (value >= mapping.witness_from) == run.expects
    scale = PERCENT if mapping.does == "share" else 1.0
    return abs(value - scale * run.value) <= mapping.tolerance


def expected_of(
    mapping: CommandMapping, value: float, room_c: float | None, witness: float | None = None
) -> bool | None:
    """Return whether a witness should show something running once a command is obeyed, None where it cannot tell.

    Of on and off it is as asked. A setpoint shows only while the room lies a kelvin or more to one side of it [°C]: on
    that side a heater (or a unit that is asked to cool) must run, on the other it must not. A ``witness`` that shows it
    already before the command cannot tell whether this one was obeyed.
    """
    if mapping.witness_from is None:
        return None
    if mapping.does in ("setpoint", "cooling"):
        if room_c is None or abs(value - room_c) < TELLING_K:
            return None
        expected = (value < room_c) if mapping.does == "cooling" else (value > room_c)
    else:
        expected = value > 0
    return None if witness is not None and (witness >= mapping.witness_from) == expected else expected


def next_step(run: CommandRun, mapping: CommandMapping, now_ms: int) -> Literal["nothing", "send", "give up"]:
    """Return what is to be done with a command now.

    Notes
    -----
    A toggle is sent once: whoever does not know what it did must look, not press again.
    """
    due = due_ms(run, mapping)
    if due is None or now_ms < due:
        return "nothing"
    if run.state == "waiting":
        return "send"
    most = 1 if mapping.is_toggle else mapping.tries
    return "send" if len(run.sent_ms) < most else "give up"


def after_restart(run: CommandRun, mapping: CommandMapping) -> CommandRun:
    """Return a command that was found open after a restart.

    What was written down but may or may not have gone out is sent again if it says what shall be; a toggle is not: it
    counts as sent, and its witness tells.
    """
    if run.state == "waiting" and mapping.is_toggle:
        return replace(run, state="sent", sent_ms=(run.made_ms,))
    return run


def payload_of(mapping: CommandMapping, value: float, text: str = "") -> str:
    """Return what is sent: the template with the number, the word of on or off, or the text in it."""
    if mapping.does == "switch":
        word = mapping.on_word if value > 0 else mapping.off_word
    elif mapping.does == "text":
        word = text
    elif mapping.does == "share":
        word = f"{PERCENT * value:.0f}"
    else:
        word = f"{value:.2f}".rstrip("0").rstrip(".")
    return mapping.template.replace("{value}", word)
