"""A day's readings as rows with the import of each: merged, replaced by a later import's, and taken out again."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# As a chunk holds them: instant [ms UTC], value as imported, import that brought it.
READING_ROW = np.dtype([("at_ms", "<i8"), ("value", "<f8"), ("import_id", "<i4")])
Rows = NDArray[np.void]


@dataclass(frozen=True, slots=True)
class MergedRows:
    """A day after an import: what it holds, what was replaced, and how many values were new, equal and different."""

    held: Rows
    replaced: Rows
    added: int
    equal: int
    different: int


def merged(held: Rows, fresh: Rows, *, replaces: bool) -> MergedRows:
    """Return a day's rows with an import's: an equal value adds nothing; a different one counts as such.

    It takes the place of the one that is there if the import ``replaces``, and is left out otherwise. Times of both
    rise and stand once.
    """
    known = np.isin(fresh["at_ms"], held["at_ms"])
    place = np.searchsorted(held["at_ms"], fresh["at_ms"][known])
    differs = held["value"][place] != fresh["value"][known]
    equal, different = int((~differs).sum()), int(differs.sum())
    replaced = held[place[differs]] if replaces else held[:0]
    if replaces:
        held = held.copy()
        held[place[differs]] = fresh[known][differs]
    return MergedRows(in_order(held, fresh[~known]), replaced, int((~known).sum()), equal, different)


@dataclass(frozen=True, slots=True)
class TakenOut:
    """A day without an import: what is put aside, what it holds then, and what others have replaced, by their id."""

    aside: Rows
    held: Rows
    replaced: dict[int, Rows]


def taken_out(held: Rows, replaced: Mapping[int, Rows], import_id: int) -> TakenOut:
    """Return a day's rows without an import's, each that it replaced back in its place.

    ``replaced`` has the rows that each import replaced. Where the import's own value was replaced by a later one, what
    it had replaced lies beneath that one from then on.
    """
    freed = replaced.get(import_id, held[:0])
    is_mine = held["import_id"] == import_id
    asides, others = [held[is_mine]], {}
    for other, rows in replaced.items():
        if other == import_id:
            continue
        mine = rows["import_id"] == import_id
        asides.append(rows[mine])
        beneath = freed[np.isin(freed["at_ms"], rows["at_ms"][mine])]
        others[other] = in_order(rows[~mine], beneath)
    on_top = freed[np.isin(freed["at_ms"], held["at_ms"][is_mine])]
    left = {other: rows for other, rows in others.items() if rows.size}
    return TakenOut(in_order(*asides), in_order(held[~is_mine], on_top), left)


def in_order(*parts: Rows) -> Rows:
    """Return rows of several parts in the order of their times."""
    rows = np.concatenate(parts)
    return rows[np.argsort(rows["at_ms"], kind="stable")]
