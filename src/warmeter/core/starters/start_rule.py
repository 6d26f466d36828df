"""The command that begins a rule from a starter."""

from dataclasses import dataclass

from warmeter.core.edits import rule_edits
from warmeter.core.edits.edit import Edit
from warmeter.core.home.document import Home
from warmeter.core.home.part import Word
from warmeter.core.starters.catalogue import started
from warmeter.core.starters.openings import with_drop


@dataclass(frozen=True, slots=True, kw_only=True)
class StartRule:
    """Begin a rule from a starter; ``drop_k`` is the fall by which an opening of the place shows in its log [K]."""

    starter: Word
    place: Word = ""
    strategy: Word = "usual"
    drop_k: float | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        with_group, rule = started(home, self.starter, self.strategy, self.place)
        if self.drop_k is not None and self.starter == "drop":
            rule = with_drop(rule, self.drop_k)
        added, rule = rule_edits.with_new_rule(with_group, rule)
        return Edit(added, f"{rule.name} written", rule.id)
