"""Costs that nobody understands: two readings of the meter and a price, and a thing that is left on."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import TimeOfDay
from warmeter.core.home.plant import Source
from warmeter.core.nuisances.growing import Price, with_price

Counter = Annotated[float, Ge(0), Le(1e8)]


@dataclass(frozen=True, slots=True, kw_only=True)
class UnknownCosts:
    """Two readings of the meter [kWh] with their dates and times, the price of a kWh and the standing charge a day."""

    first_on: date
    first_at: TimeOfDay = 0
    first_kwh: Counter
    last_on: date
    last_at: TimeOfDay = 0
    last_kwh: Counter
    price: Price | None = None
    standing: Price | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with the price; ``HomeError`` where the readings do not rise, or it has several rates."""
        if (self.last_on, self.last_at) <= (self.first_on, self.first_at):
            raise HomeError("the second reading must come after the first")
        if self.last_kwh < self.first_kwh:
            raise HomeError("the second reading is less than the first: a counter only rises")
        return Edit(with_price(home, self.price, self.standing), "A price of electricity typed")


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftOn:
    """What a kWh costs, and whether electricity heats the home; the log of the meter says the rest."""

    price: Price | None = None
    is_heated_with_electricity: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with the price and its source of heat; ``HomeError`` if it has a tariff of several rates."""
        priced = with_price(home, self.price)
        if self.is_heated_with_electricity and not priced.heats_with_electricity:
            direct = Source(id=new_id(), name="Direct electric", kind="direct")
            priced = replace(priced, sources=(*priced.sources, direct))
        return Edit(priced, "What the meter's log needs typed")
