"""Commands on levels: the home's numbers, a zone's own."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits import level_edits, timetable_edits
from warmeter.core.edits.edit import UNSET, Edit, FieldsOf, Unset, Values
from warmeter.core.edits.home_edits import with_level
from warmeter.core.edits.summary_words import temperature_text
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, Unit
from warmeter.core.home.timetables import Fan
from warmeter.core.home.zones import Level, LevelNumbers

HeatingC = Annotated[float, Ge(level_edits.HEAT_RANGE_C[0]), Le(level_edits.HEAT_RANGE_C[1]), Unit("°C")]
CoolingC = Annotated[float, Ge(level_edits.COOL_RANGE_C[0]), Le(level_edits.COOL_RANGE_C[1]), Unit("°C")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLevelHeating:
    """Set a level's heating setpoint; its cooling limit gives way if the gap is not kept."""

    level_id: Id
    heating_c: HeatingC | None

    def edit(self, home: Home) -> Edit:
        """Return the home with it set; as it was where none was typed."""
        level = home.level(self.level_id)
        asked = level.heating_c if self.heating_c is None else self.heating_c
        heating_c, cooling_c = level_edits.apart(home, asked, level.cooling_c, "heat")
        moved = "" if cooling_c == level.cooling_c else ", and cooling gives way"
        return Edit(
            with_level(home, replace(level, heating_c=heating_c, cooling_c=cooling_c)),
            f"{level.name}: heating {temperature_text(home, heating_c)}{moved}",
            fold=f"heating-{level.id}",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLevelCooling:
    """Set a level's cooling limit, or none; its heating setpoint gives way if the gap is not kept."""

    level_id: Id
    cooling_c: CoolingC | None

    def edit(self, home: Home) -> Edit:
        """Return the home with it set."""
        level = home.level(self.level_id)
        heating_c, cooling_c = level_edits.apart(home, level.heating_c, self.cooling_c, "cool")
        moved = "" if heating_c == level.heating_c else ", and heating gives way"
        limit = "none" if cooling_c is None else temperature_text(home, cooling_c)
        return Edit(
            with_level(home, replace(level, heating_c=heating_c, cooling_c=cooling_c)),
            f"{level.name}: cooling limit {limit}{moved}",
            fold=f"cooling-{level.id}",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class RenameLevel:
    """Give a level another name."""

    level_id: Id
    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with it renamed."""
        level = home.level(self.level_id)
        return Edit(with_level(home, replace(level, name=self.name)), f"Level {level.name} is called {self.name}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLevel:
    """Set a level's name and heating setpoint together."""

    level_id: Id
    values: Annotated[Values, FieldsOf(Level, ("name",))]
    heating_c: HeatingC

    def edit(self, home: Home) -> Edit:
        """Return the home with both set."""
        level = replace(home.level(self.level_id), heating_c=self.heating_c, **self.values)
        return Edit(with_level(home, level), f"{level.name} is {temperature_text(home, self.heating_c)}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLevelFan:
    """Set a level's fan."""

    level_id: Id
    fan: Fan

    def edit(self, home: Home) -> Edit:
        """Return the home with it set."""
        level = home.level(self.level_id)
        return Edit(with_level(home, replace(level, fan=self.fan)), f"{level.name}: fan {self.fan}")


@dataclass(frozen=True, slots=True, kw_only=True)
class ToggleSaving:
    """Say that a level is meant to save, or not."""

    level_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it so."""
        level = home.level(self.level_id)
        changed = replace(level, is_saving=not level.is_saving)
        return Edit(with_level(home, changed), f"{level.name} is {'' if changed.is_saving else 'not '}meant to save")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddLevel:
    """Add a level, beginning with the numbers of the last one."""

    name: Name

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(level_edits.with_new_level(home, self.name), f"Level {self.name} added")


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveLevel:
    """Remove a level that no timetable uses."""

    level_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        name = home.level(self.level_id).name
        return Edit(level_edits.without_level(home, self.level_id), f"Level {name} removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveLevelUp:
    """Move a level up in the list."""

    level_id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home with it moved."""
        name = home.level(self.level_id).name
        return Edit(level_edits.level_moved(home, self.level_id, -1), f"Level {name} moved up")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeZoneNumbers:
    """Set a zone's own numbers at a level; an empty one gives the home's back."""

    zone_id: Id
    level_id: Id
    heating_c: HeatingC | Unset | None = UNSET
    cooling_c: CoolingC | Unset | None = UNSET
    fan: Fan | Unset | None = UNSET

    def edit(self, home: Home) -> Edit:
        """Return the home with them set, heating and cooling kept apart."""
        zone, level = home.zone_of_id(self.zone_id), home.level(self.level_id)
        own = zone.numbers_at(level.id) or LevelNumbers(level_id=level.id)
        own = replace(
            own,
            heating_c=own.heating_c if isinstance(self.heating_c, Unset) else self.heating_c,
            cooling_c=own.cooling_c if isinstance(self.cooling_c, Unset) else self.cooling_c,
            fan=own.fan if isinstance(self.fan, Unset) else self.fan,
        )
        heating = level.heating_c if own.heating_c is None else own.heating_c
        cooling = level.cooling_c if own.cooling_c is None else own.cooling_c
        moved = "heat" if isinstance(self.cooling_c, Unset) else "cool"
        heat_c, cool_c = level_edits.apart(home, heating, cooling, moved)
        own = replace(
            own,
            heating_c=own.heating_c if heat_c == heating else heat_c,
            cooling_c=own.cooling_c if cool_c == cooling else cool_c,
        )
        changed = timetable_edits.with_numbers(home, zone.id, own)
        return Edit(changed, f"{zone.name}: own numbers at {level.name}", fold=f"own-{zone.id}-{level.id}")
