"""A mixed-integer programme, said variable by variable and row by row, and solved by HiGHS."""

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import csr_array

from warmeter.core.arrays import Floats, Ints

OPTIMAL, INFEASIBLE = 0, 2
# Rows are given this much leeway. Where they are exact, the presolve of HiGHS 1.12 now and then cuts the optimum off and
# calls a dearer plan proven: in 11 of 250 made-up plans, against none with the leeway (`./warmeter plan-agree` looks).
LEEWAY = 1e-7
# What is drawn in each slot, as places of variables with their factors.
Terms = list[list[tuple[int, float]]]


class Programme:
    """Variables and rows of a programme, gathered as they are said."""

    def __init__(self) -> None:
        self.low: list[float] = []
        self.high: list[float] = []
        self.cost: list[float] = []
        self.whole: list[int] = []
        self._rows: list[int] = []
        self._columns: list[int] = []
        self._values: list[float] = []
        self._low: list[float] = []
        self._high: list[float] = []

    def variables(self, count: int, low: float, high: float, *, is_whole: bool = False) -> Ints:
        """Return the places of new variables between two bounds."""
        first = len(self.low)
        self.low += [low] * count
        self.high += [high] * count
        self.cost += [0.0] * count
        self.whole += [int(is_whole)] * count
        return np.arange(first, first + count, dtype=np.int64)

    def row(self, terms: list[tuple[int, float]], low: float, high: float) -> None:
        """Say that a sum of variables times factors lies between two numbers."""
        number = len(self._low)
        for column, value in terms:
            self._rows.append(number)
            self._columns.append(int(column))
            self._values.append(float(value))
        self._low.append(low)
        self._high.append(high)

    def solve(self, seconds: float, gap: float, *, is_presolved: bool = True) -> tuple[int, Floats | None, float]:
        """Return the solver's status, the values, and the relative gap."""
        shape = len(self._low), len(self.low)
        matrix = csr_array((self._values, (self._rows, self._columns)), shape=shape)
        found = milp(
            np.array(self.cost),
            integrality=np.array(self.whole),
            bounds=Bounds(np.array(self.low), np.array(self.high)),
            constraints=LinearConstraint(matrix, np.array(self._low) - LEEWAY, np.array(self._high) + LEEWAY),
            options={"time_limit": seconds, "mip_rel_gap": gap, "presolve": is_presolved},
        )
        values = None if found.x is None else np.asarray(found.x, dtype=np.float64)
        return int(found.status), values, float(found.mip_gap or 0.0)
