"""Every kind of condition that the package has, found by its modules."""

import importlib
import pkgutil
from dataclasses import fields, is_dataclass
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING

from warmeter.core.home import conditions
from warmeter.core.home.conditions.condition import Condition

NOT_SINGLE = ("sequence", "kinds")


def _single_kinds() -> tuple[type[Condition], ...]:
    """Return the kinds that stand alone, in the order in which a first slot offers them."""
    found = []
    for module in pkgutil.iter_modules(conditions.__path__):
        if module.name not in NOT_SINGLE:
            loaded = importlib.import_module(f"{conditions.__name__}.{module.name}")
            own = [value for value in vars(loaded).values() if isinstance(value, type) and is_dataclass(value)]
            found += [
                kind
                for kind in own
                if issubclass(kind, Condition)
                and kind.__module__ == loaded.__name__
                and any(f.name == "kind" for f in fields(kind))
            ]
    return tuple(sorted(found, key=lambda kind: kind.LIST_PLACE))


SINGLE_KINDS = _single_kinds()
if TYPE_CHECKING:
    Single = Condition
else:
    # A document tells kinds apart by their field ``kind``.
    Single = reduce(or_, SINGLE_KINDS)
