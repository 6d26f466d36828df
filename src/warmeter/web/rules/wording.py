"""What a home's rules can name, and a rule being told."""

from dataclasses import dataclass

from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.kinds import SINGLE_KINDS
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.quantity import QUANTITIES
from warmeter.core.rule.signals import SignalChoice, offered
from warmeter.web.rules.slot_types import GONE
from warmeter.web.rules.slots import Option


@dataclass(frozen=True, slots=True)
class Names:
    """What a home's rules can name: its signals, and what a condition's first slot offers; made once a page."""

    home: Home
    signals: dict[Signal, SignalChoice]
    subjects: tuple[Option, ...]

    def name(self, signal: Signal) -> str:
        """Return a signal's name, or that it is gone."""
        found = self.signals.get(signal)
        return GONE if found is None else found.name

    def unit(self, signal: Signal) -> str:
        """Return a signal's unit."""
        found = self.signals.get(signal)
        if found is not None:
            return found.unit
        return QUANTITIES[signal.quantity].unit if signal.quantity in QUANTITIES else ""


@dataclass(frozen=True, slots=True)
class RuleWording:
    """A rule being told, in a home, with the names of its things."""

    home: Home
    rule: Rule
    names: Names

    @property
    def signals(self) -> dict[Signal, SignalChoice]:
        """The home's signals."""
        return self.names.signals


def names_of(home: Home) -> Names:
    """Return what a home's rules can name."""
    signals = {each.signal: each for each in offered(home)}
    found = [(f"signal:{s.quantity}:{s.subject_id or ''}", o.name) for s, o in signals.items()]
    for kind in SINGLE_KINDS:
        found += kind.subjects(home).items()
    return Names(home, signals, tuple(found))


def rule_wording(home: Home, rule: Rule, names: Names | None = None) -> RuleWording:
    """Return a rule ready to be told."""
    return RuleWording(home, rule, names_of(home) if names is None else names)
