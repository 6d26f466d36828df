"""Reports in the order in which they became known: what was heard late says nothing before it was heard."""

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.truth.track import Track


def as_known(at_ms: Ints, value: Floats, late_ms: Ints, heard_ms: Ints) -> Track:
    """Return reports at the instants when they became known.

    Parameters
    ----------
    at_ms, value : (report,) arrays
        Of when each is, rising [ms UTC], and what it says.
    late_ms, heard_ms : (late,) int arrays
        Of when the late ones are, rising, and when they were heard [ms UTC].

    Notes
    -----
    A late report that is older than one known already is history only: it says nothing about now.
    """
    if not late_ms.size:
        return Track(at_ms, value)
    known = at_ms.copy()
    place = np.searchsorted(late_ms, at_ms)
    is_late = (place < late_ms.size) & (late_ms[np.minimum(place, late_ms.size - 1)] == at_ms)
    known[is_late] = np.maximum(heard_ms[place[is_late]], at_ms[is_late])
    order = np.lexsort((at_ms, known))
    of = at_ms[order]
    newest_before = np.concatenate([[np.iinfo(np.int64).min], np.maximum.accumulate(of)[:-1]])
    counts = of > newest_before
    return Track(known[order][counts], value[order][counts])
