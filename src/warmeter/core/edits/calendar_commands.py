"""Commands on named timetables, their dates, and kinds of day; ``zone_id`` "*" means all zones."""

from dataclasses import dataclass, replace
from datetime import date
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.edits import timetable_edits
from warmeter.core.edits.edit import Edit
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import DayWeather, Home
from warmeter.core.home.occasions import Occasion, OccasionKind
from warmeter.core.home.part import Id, Name, TimeOfDay, Unit, Word
from warmeter.core.home.timetables import Period, Weekday
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, sentence

EVERY_ZONE = "*"
OutdoorC = Annotated[float, Ge(-60), Le(60), Unit("°C")]


def _zones(home: Home, zone_id: str) -> list[Zone]:
    return list(home.zones) if zone_id == EVERY_ZONE else [home.zone_of_id(zone_id)]


def _names(zones: list[Zone]) -> str:
    return zones[0].name if len(zones) == 1 else "All zones"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddTimetable:
    """Add a named timetable, beginning as a copy of the one ``like``, or of a zone's first."""

    zone_id: Id
    name: Name
    like: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        zones = _zones(home, self.zone_id)
        for zone in zones:
            like = self.like if any(t.id == self.like for t in zone.timetables) else zone.timetables[0].id
            home = timetable_edits.with_new_timetable(home, zone.id, self.name, like)
        return Edit(home, f"{_names(zones)}: timetable {self.name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class RenameTimetable:
    """Give a timetable another name."""

    zone_id: Id
    timetable_id: Id
    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with it renamed."""
        changed = timetable_edits.renamed_timetable(home, self.zone_id, self.timetable_id, self.name)
        return Edit(changed, f"{home.zone_of_id(self.zone_id).name}: timetable called {self.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveTimetable:
    """Remove a timetable and its dates."""

    zone_id: Id
    timetable_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        zone = home.zone_of_id(self.zone_id)
        name = zone.timetable(self.timetable_id).name
        changed = timetable_edits.without_timetable(home, zone.id, self.timetable_id)
        return Edit(changed, f"{zone.name}: timetable {name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddPeriod:
    """Say from which date to which a timetable of a name holds, once or every year."""

    zone_id: Id
    timetable: Word
    from_date: date | None = None
    to_date: date | None = None
    every_year: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with the dates."""
        if self.from_date is None and self.to_date is None:
            raise HomeError("type the first date, the last or both")
        zones = [
            (zone, chosen)
            for zone in _zones(home, self.zone_id)
            if (chosen := next((t for t in zone.timetables if t.name == self.timetable), None))
        ]
        if not zones:
            raise HomeError(f"no zone has a timetable called {self.timetable!r}")
        for zone, chosen in zones:
            period = Period(
                timetable_id=chosen.id, from_date=self.from_date, to_date=self.to_date, every_year=self.every_year
            )
            home = timetable_edits.with_period(home, zone.id, period)
        span = f"from {self.from_date or 'always'} to {self.to_date or 'further on'}"
        return Edit(home, f"{_names(_zones(home, self.zone_id))}: {self.timetable} {span}")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemovePeriod:
    """Take an entry out of a zone's calendar."""

    zone_id: Id
    index: Annotated[int, Ge(0), Le(100)]

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        changed = timetable_edits.without_period(home, self.zone_id, self.index)
        return Edit(changed, f"{home.zone_of_id(self.zone_id).name}: dates removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SwitchTimetable:
    """Switch to a timetable of a name from a date on, or with none named back to the calendar."""

    zone_id: Id
    day: date
    timetable: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it switched."""
        zones = _zones(home, self.zone_id)
        if self.timetable and not any(t.name == self.timetable for z in zones for t in z.timetables):
            raise HomeError(f"no zone has a timetable called {self.timetable!r}")
        changed = timetable_edits.switched(home, tuple(z.id for z in zones), self.timetable, self.day)
        words = f"switched to {self.timetable}" if self.timetable else "switched back to its dates"
        return Edit(changed, f"{_names(zones)}: {words} from {self.day}")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddDayKind:
    """Add a kind of day."""

    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(timetable_edits.with_kind(home, self.name), f"Kind of day {self.name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveDayKind:
    """Remove a kind of day, its dates and the days written for it."""

    kind_id: Word

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        kind = next((k for k in home.day_kinds if k.id == self.kind_id), None)
        if kind is None:
            raise HomeError("this kind of day is not there any more")
        return Edit(timetable_edits.without_kind(home, kind.id), f"Kind of day {kind.name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeWeekdayKind:
    """Say of which kind of day a weekday is, or with none named of none."""

    weekday: Weekday
    kind_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        changed = timetable_edits.with_weekday_of(home, self.weekday, self.kind_id)
        return Edit(changed, "Weekdays of a kind changed")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeDayWeather:
    """Say how cold and how warm it will be outdoors on a date; with neither, leave it to the log and the forecast."""

    on: date
    low_c: OutdoorC | None = None
    high_c: OutdoorC | None = None

    def edit(self, home: Home) -> Edit:
        """Return the home with it said; ``HomeError`` for one temperature alone, or the wrong way round."""
        others = tuple(each for each in home.day_weather if each.on != self.on)
        if self.low_c is None and self.high_c is None:
            return Edit(replace(home, day_weather=others), f"Weather of {self.on} left to the log")
        if self.low_c is None or self.high_c is None:
            raise HomeError("write the lowest and the highest temperature of the day")
        said = DayWeather(on=self.on, low_c=self.low_c, high_c=self.high_c)
        kept = tuple(sorted((*others, said), key=lambda each: each.on))
        words = sentence("Weather of {}: {}", str(self.on), celsius(self.low_c, until=self.high_c))
        return Edit(replace(home, day_weather=kept), words)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddOccasion:
    """Add days that differ: dates, a stretch of them, some weekdays, every so many weeks or months; of a kind or of none.

    ``on`` is a weekday (0 Monday), ``workdays``, ``weekends``, or "" for every day; ``dates`` are typed one after another;
    ``except_id`` is an occasion whose days are left out; ``leave`` and ``back`` are times on the first and last day.
    """

    name: Name
    what: OccasionKind = "other"
    dates: Annotated[str, Len(0, 4000)] = ""
    from_date: date | None = None
    to_date: date | None = None
    on: Word = ""
    every_weeks: Annotated[int, Ge(1), Le(52)] = 1
    every_months: Annotated[int, Ge(1), Le(120)] | None = None
    except_id: Word = ""
    leave: TimeOfDay | None = None
    back: TimeOfDay | None = None
    about_id: Word = ""
    kind_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        occasion = Occasion(
            id=new_id(),
            name=self.name,
            kind=self.what,
            dates=_dates_read(self.dates),
            from_date=self.from_date,
            to_date=self.to_date,
            weekdays=_weekdays_of(self.on),
            every_weeks=self.every_weeks,
            every_months=self.every_months,
            except_ids=(self.except_id,) if self.except_id else (),
            leave_min=self.leave,
            back_min=self.back,
            about_id=self.about_id or None,
            kind_id=self.kind_id or None,
        )
        return Edit(replace(home, occasions=(*home.occasions, occasion)), f"{occasion.name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveOccasion:
    """Remove an occasion; rules that look at it say so."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        gone = next((o for o in home.occasions if o.id == self.id), None)
        if gone is None:
            raise HomeError("these days are not there any more")
        left = (
            replace(o, except_ids=tuple(i for i in o.except_ids if i != gone.id))
            for o in home.occasions
            if o.id != gone.id
        )
        return Edit(replace(home, occasions=tuple(left)), f"{gone.name} removed")


def _dates_read(text: str) -> tuple[date, ...]:
    """Return dates typed one after another; ``HomeError`` for one that is none."""
    found = []
    for part in text.replace(",", " ").split():
        try:
            found.append(date.fromisoformat(part))
        except ValueError:
            raise HomeError(f"{part!r} is no date such as 2026-12-24") from None
    return tuple(sorted(set(found)))


def _weekdays_of(on: str) -> tuple[int, ...]:
    """Return the weekdays of a word; ``HomeError`` for another."""
    groups = {"": (), "workdays": (0, 1, 2, 3, 4), "weekends": (5, 6)} | {str(k): (k,) for k in range(7)}
    if on not in groups:
        raise HomeError("choose the days from the list")
    return groups[on]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeSpecialDay:
    """Say of which kind a date is, or with none named as its weekday again."""

    on: date
    kind_id: Word = ""
    note: Annotated[str, Len(0, 200)] = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        name = next((k.name for k in home.day_kinds if k.id == self.kind_id), "as its weekday")
        changed = timetable_edits.with_special_day(home, self.on, self.kind_id, self.note)
        return Edit(changed, f"{self.on} is {name}")
