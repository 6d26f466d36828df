"""What usually puts a rule back: the opposite of what it watches."""

from dataclasses import replace

from warmeter.core.home.rule_conditions import (
    AtLevel,
    Compared,
    Condition,
    Dark,
    Fact,
    InState,
    MachineDoes,
    RanToday,
    is_moment,
)
from warmeter.core.home.rules import PutBack, Rule


def opposite_of(condition: Condition) -> Condition | None:
    """Return what says that a condition is over, beyond its hysteresis; None for a moment or where nothing does."""
    if is_moment(condition):
        return None
    if isinstance(condition, InState):
        return replace(condition, is_on=not condition.is_on)
    if isinstance(condition, Compared) and condition.how != "between":
        other = "under" if condition.how == "over" else "over"
        value = condition.value + (-condition.hysteresis if condition.how == "over" else condition.hysteresis)
        return replace(condition, how=other, value=value, hysteresis=0.0)  # type: ignore[arg-type]
    if isinstance(condition, Dark):
        return replace(condition, is_dark=not condition.is_dark)
    if isinstance(condition, Fact):
        return replace(condition, is_true=not condition.is_true)
    if isinstance(condition, AtLevel):
        return replace(condition, is_at=not condition.is_at)
    if isinstance(condition, RanToday):
        return replace(condition, has=not condition.has)
    if isinstance(condition, MachineDoes):
        return replace(condition, does="idle" if condition.does in ("runs", "left_on") else "runs")
    return None


def put_back_of(rule: Rule) -> PutBack:
    """Return when a rule would usually be put back: when what it watches is over, else after half an hour."""
    over = [opposite_of(c) for clause in rule.watch for c in clause]
    known = tuple((c,) for c in over if c is not None)
    if known and len(known) == len(over):
        return PutBack(when=known, for_s=max(60, rule.for_s // 2) if rule.for_s else 60)
    return PutBack(after_s=1800)
