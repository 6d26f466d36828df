"""Cutting a machine's plug when it has finished, or leaving it on: what each costs, and what speaks against it."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from warmeter.core.errors import within
from warmeter.core.saving.simple import HOURS_A_YEAR, exact

Better = Literal["cut", "leave", "never cut"]
PLUG_OWN_W = 0.5  # usual of a plug that listens; typed where it is known


@dataclass(frozen=True, slots=True, kw_only=True)
class CutFacts:
    """What cutting would cost besides money: a lost clock, a hot drum left to itself, a locked door, a start by hand.

    ``must_stay_on`` forbids it: food, water or people depend on the machine.
    """

    loses_clock: bool = False
    cools_down: bool = False
    locks_door: bool = False
    restarts_by_hand: bool = False
    must_stay_on: bool = False

    @property
    def is_unsafe_early(self) -> bool:
        """Whether cutting before it has cooled down or opened its door does harm."""
        return self.cools_down or self.locks_door


@dataclass(frozen=True, slots=True, kw_only=True)
class CutOrLeave:
    """Both ways over a year: energy [kWh] and money of each, and which is better by money alone."""

    leave_kwh: Decimal
    cut_kwh: Decimal
    leave_money: Decimal | None
    cut_money: Decimal | None
    better: Better

    @property
    def saved_money(self) -> Decimal | None:
        """What cutting saves a year; negative where it costs more. None without a price."""
        return None if self.leave_money is None or self.cut_money is None else self.leave_money - self.cut_money


def cut_or_leave(
    *, rest_w: float, rest_share: Decimal, plug_own_w: float, price_per_kwh: Decimal | None, facts: CutFacts
) -> CutOrLeave:
    """Return what leaving a machine on at rest costs a year, and what a plug that cuts it then does.

    Parameters
    ----------
    rest_w : float
        The machine at rest, 0 to 1000 [W].
    rest_share : Decimal
        Share of the year that it rests, 0 to 1.
    plug_own_w : float
        What the switching plug itself draws all year, 0 to 20 [W].
    price_per_kwh : Decimal or None
        Mean price over the year, None where there is none.

    Notes
    -----
    K1: W × 8760 h × share/1000 against W of the plug × 8760 h/1000; the plug listens all year.
    """
    within("power at rest", rest_w, 0.0, 1000.0, "W")
    within("the plug's own power", plug_own_w, 0.0, 20.0, "W")
    leave = exact(rest_w) * HOURS_A_YEAR * rest_share / 1000
    cut = exact(plug_own_w) * HOURS_A_YEAR / 1000
    better: Better = "never cut" if facts.must_stay_on else ("cut" if cut < leave else "leave")
    return CutOrLeave(
        leave_kwh=leave,
        cut_kwh=cut,
        leave_money=None if price_per_kwh is None else leave * price_per_kwh,
        cut_money=None if price_per_kwh is None else cut * price_per_kwh,
        better=better,
    )
