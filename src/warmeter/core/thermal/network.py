"""Any network of heat stores: steady state, time constants, exact steps (B4, B5, B6)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.linalg import expm

from warmeter.core.arrays import Floats
from warmeter.core.errors import HomeError, OutOfRange


@dataclass(frozen=True, slots=True)
class Link:
    """A conductance between two nodes, or a node and a boundary [W/K]."""

    a: str
    b: str
    conductance_w_k: float


@dataclass(frozen=True, slots=True, kw_only=True)
class RcNetwork:
    """Heat stores, boundaries of given temperature, and the links between them.

    Parameters
    ----------
    capacities_j_k : mapping of str to float
        Heat capacity of each node, > 0 [J/K]; its order is the order of states.
    boundaries : sequence of str
        Names of given temperatures; their order is the order of inputs.
    links : sequence of Link
        Conductances, >= 0 [W/K].

    Raises
    ------
    OutOfRange
        If a capacity is not above zero or a conductance below zero.
    HomeError
        If a link names an unknown node.

    References
    ----------
    Energy balance of each node; docs/methods B4.
    """

    capacities_j_k: Mapping[str, float]
    boundaries: Sequence[str]
    links: Sequence[Link]

    def __post_init__(self) -> None:
        for name, capacity in self.capacities_j_k.items():
            if not 0 < capacity < float("inf"):
                raise OutOfRange(f"heat capacity of {name}", capacity, 0.0, float("inf"), "J/K")
        known = {*self.capacities_j_k, *self.boundaries}
        for link in self.links:
            if link.conductance_w_k < 0:
                raise OutOfRange("conductance", link.conductance_w_k, 0.0, float("inf"), "W/K")
            if {link.a, link.b} - known:
                raise HomeError(f"a link joins {link.a!r} and {link.b!r}, of which one is no node")

    @property
    def nodes(self) -> list[str]:
        """Names of the nodes in state order."""
        return list(self.capacities_j_k)

    def matrices(self) -> tuple[Floats, Floats]:
        """Return (A, B) of dθ/dt = A θ + B u; u is boundaries, then heat per node [W].

        Shapes (node, node) and (node, boundary + node).
        """
        nodes, boundaries = self.nodes, list(self.boundaries)
        a = np.zeros((len(nodes), len(nodes)))
        b = np.zeros((len(nodes), len(boundaries) + len(nodes)))
        for link in self.links:
            for here, there in ((link.a, link.b), (link.b, link.a)):
                if here not in nodes:
                    continue
                row, rate = nodes.index(here), link.conductance_w_k / self.capacities_j_k[here]
                a[row, row] -= rate
                if there in nodes:
                    a[row, nodes.index(there)] += rate
                else:
                    b[row, boundaries.index(there)] += rate
        for row, name in enumerate(nodes):
            b[row, len(boundaries) + row] = 1.0 / self.capacities_j_k[name]
        return a, b

    def steady_c(self, inputs: Floats) -> Floats:
        """Return the temperatures at which the network settles, shape (node,) [°C]."""
        a, b = self.matrices()
        return np.asarray(np.linalg.solve(a, -b @ inputs), dtype=np.float64)

    def time_constants_s(self) -> Floats:
        """Return the time constants, longest first, shape (node,) [s]."""
        a, _ = self.matrices()
        return np.sort(-1.0 / np.linalg.eigvals(a).real)[::-1]


@dataclass(frozen=True, slots=True)
class ExactStep:
    """One exact step: x+ = state x + now u_k + then u_{k+1}; held inputs use now + then."""

    state: Floats
    now: Floats
    then: Floats

    @property
    def held(self) -> Floats:
        """Input matrix for inputs that stay constant over the step."""
        return self.now + self.then


def exact_step(a: Floats, b: Floats, step_s: float) -> ExactStep:
    """Return the exact discretisation for inputs held or ramped over a step.

    Parameters
    ----------
    a, b : (..., node, node) and (..., node, input) float arrays
        The continuous system; leading axes are separate systems.
    step_s : float
        Length of the step, > 0 [s].

    Raises
    ------
    OutOfRange
        If the step is not above zero.

    Notes
    -----
    exp([[A Δ, B Δ, 0], [0, 0, I], [0, 0, 0]]) holds A_d, Γ1, Γ2; the response to an input that
    runs straight from u_k to u_{k+1} is (Γ1 − Γ2) u_k + Γ2 u_{k+1}. Exact at the step ends.

    References
    ----------
    Van Loan 1978, Computing integrals involving the matrix exponential; docs/methods B5.
    """
    if not 0 < step_s < float("inf"):
        raise OutOfRange("step", step_s, 0.0, float("inf"), "s")
    nodes, inputs = a.shape[-1], b.shape[-1]
    size = nodes + 2 * inputs
    block = np.zeros((*a.shape[:-2], size, size))
    block[..., :nodes, :nodes] = a * step_s
    block[..., :nodes, nodes : nodes + inputs] = b * step_s
    block[..., nodes : nodes + inputs, nodes + inputs :] = np.eye(inputs)
    power = np.asarray(expm(block), dtype=np.float64)
    constant = power[..., :nodes, nodes : nodes + inputs]
    ramp = power[..., :nodes, nodes + inputs :]
    return ExactStep(power[..., :nodes, :nodes].copy(), constant - ramp, ramp.copy())
