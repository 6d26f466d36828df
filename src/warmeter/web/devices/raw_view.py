"""A sensor's chain from counts to degrees, as ready strings."""

from dataclasses import dataclass

from warmeter.core.electric.raw_chain import ChainEnd, chain_end
from warmeter.core.home.document import Home
from warmeter.core.home.raw_readings import RawChain
from warmeter.core.units import celsius_to
from warmeter.web import format as show

READS = {"counts": "counts of a converter", "volt": "volts", "ohm": "ohms"}
SIDES = {"supply": "between supply and middle", "ground": "between middle and ground"}


@dataclass(frozen=True, slots=True, kw_only=True)
class RawEndRow:
    """An end of the range: what is read there and how far off it may be."""

    at: str
    raw: str
    volts: str
    ohm: str
    step: str
    error: str
    is_lost: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RawChainView:
    """A chain with its ends, and its thermistor's points as they are typed."""

    chain: RawChain
    rows: list[RawEndRow]
    points: str
    low: str
    high: str
    checked: str


def raw_chain_view(home: Home, chain: RawChain | None) -> RawChainView | None:
    """Return a chain as its page shows it; None without one."""
    if chain is None:
        return None
    unit = home.temperature_unit
    return RawChainView(
        chain=chain,
        rows=[_row(home, chain_end(chain, at)) for at in (chain.low_c, chain.high_c)],
        points="; ".join(f"{celsius_to(p.at_c, unit):g} {p.ohm:g}" for p in chain.points),
        low=show.temperature(chain.low_c, home, 0),
        high=show.temperature(chain.high_c, home, 0),
        checked="" if chain.checked_c is None else show.temperature(chain.checked_c, home),
    )


def _row(home: Home, end: ChainEnd) -> RawEndRow:
    return RawEndRow(
        at=f"{show.temperature(end.at_c, home, 0)} {show.temperature_unit(home)}",
        raw=show.number(end.raw, 0 if end.raw > 100 else 2),
        volts="" if end.volts is None else show.number(end.volts, 3),
        ohm=show.number(end.ohm),
        step="" if end.step_k is None else show.difference(end.step_k, home, 2),
        error=show.difference(end.error_k, home, 1),
        is_lost=end.is_lost,
    )
