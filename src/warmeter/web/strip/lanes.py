"""What a strip shows, as data: lanes, their curves, blocks, wedges, brackets and bars."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

from warmeter.core.arrays import Floats
from warmeter.core.wording import shortened

GUTTER_LETTERS = 15


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """A line over a lane: values at even times, NaN is a gap."""

    values: Floats
    css: str
    start: float = 0.0
    step: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class StripBlock:
    """A block of a setpoint profile, in axis units; ``key`` makes its handles' ids."""

    start: float
    end: float
    value: float
    label: str
    key: str = ""
    hatch: int = 4
    edge_label: str = ""
    top_label: str = ""
    is_first: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Wedge:
    """A warm-up or a cool-down: leans from ``start`` into the block at ``end``."""

    start: float
    end: float
    low: float
    high: float
    label: str = ""
    is_cooling: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Hold:
    """A change by hand: outlined at its height from start to end, with a word."""

    start: float
    end: float
    value: float
    label: str = ""
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StripStep:
    """A step of a price, with its number; ``parts`` are values within it at which it is cut into energy, network and tax.

    ``edge_key`` makes the handle at its start, ``edge_label`` says what it moves.
    """

    start: float
    end: float
    value: float
    label: str
    parts: tuple[float, ...] = ()
    edge_key: str = ""
    edge_label: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bracket:
    """A run: a bracket with notches, a label, and, if it has a key, a handle at its start or at both ends."""

    start: float
    end: float
    label: str
    note: str = ""
    notches: tuple[float, ...] = ()
    key: str = ""
    has_two_ends: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A moment: told, told falsely (a cross), held back (hollow), still to come (dashed), or somebody told of it (at the foot)."""

    at: float
    is_false: bool = False
    is_hollow: bool = False
    is_ahead: bool = False
    is_notice: bool = False
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StripStretch:
    """A bar from start to end, solid or hollow, or a hatched stretch that is left out."""

    start: float
    end: float
    css: str
    label: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ReferenceLine:
    """A horizontal line at a value, with a word."""

    value: float
    css: str
    label: str


def gutter_name(name: str) -> str:
    """Return a name as it fits into a lane's left gutter, a long one with an ellipsis."""
    return shortened(name, GUTTER_LETTERS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """One lane.

    Parameters
    ----------
    name, note : str
        In the left gutter.
    height : int
        In px.
    low, high : float
        Values at bottom and top.
    axis : sequence of (value, label)
        Numerals at the left.
    dots : sequence of (place, value)
        The newest reading of a live line.
    table : sequence of (sequence of str, unit)
        Ready strings every five minutes for the right gutter, line by line.
    is_part : bool
        Whether it belongs to the lane above: its name is set in and lighter.
    left_note : str
        At the right end of the left gutter.
    """

    name: str
    note: str = ""
    height: int = 46
    low: float = 0.0
    high: float = 1.0
    axis: Sequence[tuple[float, str]] = ()
    kind: Literal["plain", "power", "band"] = "plain"
    blocks: Sequence[StripBlock] = ()
    ceilings: Sequence[StripBlock] = ()
    wedges: Sequence[Wedge] = ()
    holds: Sequence[Hold] = ()
    steps: Sequence[StripStep] = ()
    curves: Sequence[Curve] = ()
    fills: Sequence[Curve] = ()
    brackets: Sequence[Bracket] = ()
    ticks: Sequence[Tick] = ()
    stretches: Sequence[StripStretch] = ()
    levels: Sequence[ReferenceLine] = ()
    dots: Sequence[tuple[float, float]] = ()
    table: Sequence[tuple[Sequence[str], str, str]] = ()
    zone_key: str = ""
    is_part: bool = False
    left_note: str = ""
    is_in_tab_order: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Axis:
    """The time axis: its length in units, grid lines, numerals, the marker of now, from where each clock name holds.

    From ``ahead_from`` on the ground is sunk: what lies there is still to come.
    """

    length: float
    grid: Sequence[tuple[float, bool]]
    numerals: Sequence[tuple[float, str]]
    now: float | None = None
    now_label: str = ""
    table_step: float = 5.0
    table_times: Sequence[str] = field(default_factory=list)
    crosshair: float | None = None
    clock_names: Sequence[tuple[float, str]] = ()
    ahead_from: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StripView:
    """A whole strip; ``id`` prefixes every id in it, ``left`` and ``right`` are its gutters where the usual ones are too narrow [px]."""

    id: str
    title: str
    axis: Axis
    lanes: Sequence[Lane]
    width: int = 792
    left: int = 0
    right: int = 0
    attributes: dict[str, str] = field(default_factory=dict)
