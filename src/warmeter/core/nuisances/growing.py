"""What all ways in add to a home: a price, people who are told, a room in words, a rule to start from."""

from dataclasses import replace
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits import rule_edits
from warmeter.core.edits.ids import new_id
from warmeter.core.edits.room_lines import AddRooms, RoomLine
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Unit
from warmeter.core.home.rooms import Room
from warmeter.core.home.rules import Loudness, NotificationGroup, Rule
from warmeter.core.home.tariffs import Rate, StandingCharge, Tariff, tariffs_in_force
from warmeter.core.starters.catalogue import started
from warmeter.core.units import MIN_PER_DAY

Price = Annotated[Decimal, Ge(0), Le(100)]
HeatW = Annotated[float, Ge(50), Le(100_000), Unit("W")]
USUAL_AREA_M2 = 15.0


def with_price(home: Home, price: Decimal | None, standing: Decimal | None = None) -> Home:
    """Return a home whose electricity costs one price at all hours; without a price it is left as it is.

    Raises
    ------
    HomeError
        If the home has a tariff of several rates, which one price would wipe out.
    """
    if price is None:
        return home
    old = next(iter(tariffs_in_force(home.tariffs)[-1:]), None)
    if old is None:
        rate = Rate(name="all hours", price_per_unit=price)
        new = Tariff(
            id=new_id(),
            name="One price",
            currency=home.currency,
            rates=(rate,),
            standing=_a_day(standing),
            prices_include_tax=True,
        )
        return replace(home, tariffs=(*home.tariffs, new))
    if len(old.rates) > 1:
        raise HomeError(
            "this home has a tariff of several rates: leave the price open here, and change it under Tariff"
        )
    rates = (replace(old.rates[0], price_per_unit=price),)
    new = replace(old, rates=rates, standing=old.standing if standing is None else _a_day(standing))
    return replace(home, tariffs=tuple(new if tariff.id == old.id else tariff for tariff in home.tariffs))


def _a_day(amount: Decimal | None) -> tuple[StandingCharge, ...]:
    return (StandingCharge(amount=amount),) if amount else ()


def with_people(
    home: Home, name: str, loudness: Loudness, quiet_from: int | None, quiet_until: int | None
) -> tuple[Home, NotificationGroup]:
    """Return a home with people to tell, those of that name as they are said now, and them; first of all groups.

    Raises
    ------
    HomeError
        If quiet hours have a beginning or an end alone.
    """
    if (quiet_from is None) != (quiet_until is None):
        raise HomeError("quiet hours need a beginning and an end; leave both empty for none")
    old = next((g for g in home.notification_groups if g.name == name), None)
    group = NotificationGroup(
        id=new_id() if old is None else old.id,
        name=name,
        loudness=loudness,
        quiet_from_min=None if quiet_from is None else quiet_from % MIN_PER_DAY,
        quiet_until_min=None if quiet_until is None else quiet_until % MIN_PER_DAY,
    )
    others = tuple(g for g in home.notification_groups if g.id != group.id)
    return replace(home, notification_groups=(group, *others)), group


def with_named_room(home: Home, line: RoomLine) -> tuple[Home, Room]:
    """Return a home with the room of a line, the one of its name where there is one already."""
    old = next((room for room in home.rooms if room.name == line.name), None)
    if old is not None:
        return home, old
    changed = AddRooms(rooms=(line,)).edit(home).home
    return changed, changed.rooms[-1]


def with_started_rule(home: Home, starter: str, strategy: str, place_id: str) -> tuple[Home, Rule]:
    """Return a home with a rule from a starter at a place, in the place of one from there that is called the same."""
    grown, rule = started(home, starter, strategy, place_id)
    same = next((r for r in grown.rules if r.name == rule.name), None)
    if same is not None:
        kept = replace(rule, id=same.id)
        return replace(grown, rules=tuple(kept if r.id == same.id else r for r in grown.rules)), kept
    return rule_edits.with_new_rule(grown, rule)
