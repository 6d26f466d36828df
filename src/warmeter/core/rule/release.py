"""What usually puts a rule back: the opposite of what it watches."""

from warmeter.core.home.rules import PutBack, Rule


def put_back_of(rule: Rule) -> PutBack:
    """Return when a rule would usually be put back: when what it watches is over, else after half an hour."""
    over = [c.opposite for clause in rule.watch for c in clause]
    known = tuple((c,) for c in over if c is not None)
    if known and len(known) == len(over):
        return PutBack(when=known, for_s=max(60, rule.for_s // 2) if rule.for_s else 60)
    return PutBack(after_s=1800)
