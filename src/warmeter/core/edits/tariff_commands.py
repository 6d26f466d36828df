"""Commands on tariffs, their rates, typed bills and typed meter readings."""

from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import pairwise

from warmeter.core.edits.edit import Edit
from warmeter.core.edits.home_edits import put, swapped
from warmeter.core.errors import TariffError
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import CurrencyChange, Rate, Tariff, TariffFile, TypedBill, TypedMeter
from warmeter.core.tariff.price_days import price_days
from warmeter.core.wording import clock_time


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeTariff:
    """Put a tariff in the place of the one of its id, or behind the others."""

    tariff: Tariff

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        tariff = self.tariff
        tariffs = put(home.tariffs, tariff)
        rates = f"{len(tariff.rates)} rate{'s' * (len(tariff.rates) != 1)}"
        return Edit(replace(home, tariffs=tariffs), f"Tariff {tariff.name}: {rates}", tariff.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowTariff:
    """Add a tariff that takes over from another on a date: that one ends on the day before."""

    tariff: Tariff
    before_id: str

    @classmethod
    def of(cls, before: Tariff, begins: date, tariff_id: str) -> "FollowTariff":
        """Return the command that lets the same prices go on from a date, to be changed there."""
        following = replace(before, id=tariff_id, valid_from=begins, valid_to=before.valid_to, is_offer=False)
        if before.valid_to is not None and before.valid_to < begins:
            following = replace(following, valid_to=None)
        return cls(tariff=following, before_id=before.id)

    def edit(self, home: Home) -> Edit:
        """Return the home with both."""
        begins = self.tariff.valid_from
        if begins is None:
            raise TariffError("a tariff that follows another needs its first day")
        before = home.tariff(self.before_id)
        ended = replace(before, valid_to=begins - timedelta(days=1))
        tariffs = (*(ended if each.id == before.id else each for each in home.tariffs), self.tariff)
        return Edit(replace(home, tariffs=tariffs), f"Tariff {self.tariff.name} from {begins:%d %b %Y}", self.tariff.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddTariffs:
    """Add the tariffs of a file, those of a known id in the place of that one."""

    file: TariffFile

    def edit(self, home: Home) -> Edit:
        """Return the home with them; ``TariffError`` for a file of another time zone."""
        if self.file.time_zone != home.time_zone:
            raise TariffError(
                f"these tariffs are on the clock of {self.file.time_zone}, the home is on that of {home.time_zone}"
            )
        changed = home
        for tariff in self.file.tariffs:
            changed = ChangeTariff(tariff=tariff).edit(changed).home
        changed = replace(changed, currency_changes=self.file.currency_changes or home.currency_changes)
        count = f"{len(self.file.tariffs)} tariff{'s' * (len(self.file.tariffs) != 1)}"
        return Edit(changed, f"{count} added from a file", self.file.tariffs[-1].id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveTariff:
    """Take a tariff out."""

    tariff_id: str

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        gone = home.tariff(self.tariff_id)
        kept = tuple(each for each in home.tariffs if each.id != gone.id)
        return Edit(replace(home, tariffs=kept), f"Tariff {gone.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class PutRate:
    """Put a rate at a place of a tariff's list: over the one that stands there, or in front of it as a new one."""

    tariff_id: str
    rate: Rate
    place: int
    is_new: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        tariff = home.tariff(self.tariff_id)
        place = _place(tariff, self.place, most=len(tariff.rates) - (not self.is_new))
        rest = tariff.rates[place:] if self.is_new else tariff.rates[place + 1 :]
        changed = replace(tariff, rates=(*tariff.rates[:place], self.rate, *rest))
        said = "added" if self.is_new else "changed"
        return Edit(_with(home, changed), f"Rate {place + 1}, {self.rate.name}, {said}", tariff.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRate:
    """Move a rate up or down in the list: the first that matches holds."""

    tariff_id: str
    place: int
    to_place: int

    def edit(self, home: Home) -> Edit:
        """Return the home with the rates in their new order."""
        tariff = home.tariff(self.tariff_id)
        last = len(tariff.rates) - 1
        place, to_place = _place(tariff, self.place, most=last), _place(tariff, self.to_place, most=last)
        rates = list(tariff.rates)
        rate = rates.pop(place)
        rates.insert(to_place, rate)
        changed = replace(tariff, rates=tuple(rates))
        return Edit(_with(home, changed), f"Rate {rate.name} moved to place {to_place + 1}", tariff.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRate:
    """Take a rate out; the last one stays, since a tariff has one at least."""

    tariff_id: str
    place: int

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        tariff = home.tariff(self.tariff_id)
        place = _place(tariff, self.place, most=len(tariff.rates) - 1)
        if len(tariff.rates) == 1:
            raise TariffError("a tariff has one rate at least; change this one, or remove the tariff")
        rates = (*tariff.rates[:place], *tariff.rates[place + 1 :])
        return Edit(_with(home, replace(tariff, rates=rates)), f"Rate {tariff.rates[place].name} removed", tariff.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRateEdge:
    """Move the minute at which one rate gives way to the next, as a lane of ``price_days`` shows it.

    ``edge`` is the day's place and the minute, as "2-960"; both rates move that begin or end there.
    """

    tariff_id: str
    edge: str
    minute: int

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``TariffError`` if the edge is not there, or would pass another one."""
        tariff = home.tariff(self.tariff_id)
        days = price_days(tariff.rates)
        number, _, at = self.edge.partition("-")
        steps = days[int(number)].steps if number.isdecimal() and int(number) < len(days) else ()
        pair = next(((a, b) for a, b in pairwise(steps) if str(b.from_min) == at), None)
        if pair is None:
            raise TariffError("no rate begins there any more; look at the page again")
        before, after = pair
        if not before.from_min < self.minute < after.to_min:
            raise TariffError(
                f"this edge can stand between {clock_time(before.from_min)} and {clock_time(after.to_min)}"
            )
        touched = {place for a, b in zip(before.rates, after.rates, strict=True) if a != b for place in (a, b)}
        rates = list(tariff.rates)
        for place in touched:
            if place is not None:
                rates[place] = _with_edge(rates[place], after.from_min, self.minute)
        if tuple(rates) == tariff.rates:
            raise TariffError("no hour of a rate begins or ends there")
        moved = f"Rates change at {clock_time(self.minute)} instead of {clock_time(after.from_min)}"
        return Edit(_with(home, replace(tariff, rates=tuple(rates))), moved, tariff.id, fold=f"price {number}")


def _with_edge(rate: Rate, old: int, new: int) -> Rate:
    hours = rate.hours
    if hours.from_min == old:
        hours = replace(hours, from_min=new)
    elif hours.to_min == old:
        hours = replace(hours, to_min=new)
    return replace(rate, hours=hours)


@dataclass(frozen=True, slots=True, kw_only=True)
class PutBill:
    """Keep a bill as it was typed, in the place of the one of its id."""

    bill: TypedBill

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        kept = tuple(each for each in home.typed_bills if each.id != self.bill.id)
        bills = tuple(sorted((*kept, self.bill), key=lambda b: (b.carrier, b.first, b.id)))
        return Edit(
            replace(home, typed_bills=bills),
            f"Bill of {self.bill.first:%d %b %Y} to {self.bill.last:%d %b %Y} typed in",
            self.bill.id,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveBill:
    """Take a typed bill out."""

    bill_id: str

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        gone = home.typed_bill(self.bill_id)
        kept = tuple(each for each in home.typed_bills if each.id != gone.id)
        return Edit(replace(home, typed_bills=kept), f"Bill of {gone.first:%d %b %Y} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class PutMeter:
    """Keep a meter with its typed readings, in the place of the one of its id."""

    meter: TypedMeter

    def edit(self, home: Home) -> Edit:
        """Return the home with it, its readings in order of time."""
        readings = tuple(sorted(self.meter.readings, key=lambda r: (r.on, r.minute)))
        meter = replace(self.meter, readings=readings)
        meters = put(home.meters, meter)
        count = f"{len(readings)} reading{'s' * (len(readings) != 1)}"
        return Edit(replace(home, meters=meters), f"Meter {meter.name}: {count}", meter.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveMeter:
    """Take a meter with its typed readings out."""

    meter_id: str

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        gone = home.meter(self.meter_id)
        kept = tuple(each for each in home.meters if each.id != gone.id)
        return Edit(replace(home, meters=kept), f"Meter {gone.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetCurrencyChange:
    """Set the one fixed rate from which date on amounts are paid in another currency; None takes it away."""

    change: CurrencyChange | None

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        if self.change is None:
            return Edit(replace(home, currency_changes=()), "Change of currency removed")
        said = f"From {self.change.on:%d %b %Y} on {self.change.to_currency} instead of {self.change.from_currency}"
        return Edit(replace(home, currency_changes=(self.change,)), said)


def _with(home: Home, tariff: Tariff) -> Home:
    return replace(home, tariffs=swapped(home.tariffs, tariff))


def _place(tariff: Tariff, place: int, *, most: int) -> int:
    if not 0 <= place <= most:
        raise TariffError(f"{tariff.name} has no rate at place {place + 1}; look at the page again")
    return place
