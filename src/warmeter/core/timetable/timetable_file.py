"""A home's timetables as one JSON document, for another copy of the home or another home of like zones."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from annotated_types import Len

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Document, Id, Name
from warmeter.core.home.timetables import ChangePoint, DayKind, HandRule, Period, SpecialDay, Timetable
from warmeter.core.home.zones import HAND, Level, LevelNumbers, Zone
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timetable.draft import FileFinding, TimetableImport, nearest

TIMETABLE_FORMAT: Literal["warmeter-timetable/1"] = "warmeter-timetable/1"


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneTimetables(Document):
    """A zone's timetables, their dates, its numbers and its rule by hand."""

    id: Id
    name: Name
    timetables: Annotated[tuple[Timetable, ...], Len(1, 20)]
    calendar: tuple[Period, ...] = ()
    numbers: tuple[LevelNumbers, ...] = ()
    hand: HandRule = HAND


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableFile(Document):
    """All timetables of a home with what they name: levels, kinds of day, dates of another kind."""

    home_id: Id
    home_name: Name
    clock: Annotated[str, Len(1, 64)]
    levels: tuple[Level, ...]
    zones: tuple[ZoneTimetables, ...]
    day_kinds: tuple[DayKind, ...] = ()
    special_days: tuple[SpecialDay, ...] = ()
    format: Literal["warmeter-timetable/1"] = TIMETABLE_FORMAT


def timetable_file(home: Home) -> TimetableFile:
    """Return a home's timetables as a document."""
    return TimetableFile(
        home_id=home.id,
        home_name=home.name,
        clock=home.time_zone,
        levels=home.levels,
        day_kinds=home.day_kinds,
        special_days=home.special_days,
        zones=tuple(
            ZoneTimetables(
                id=z.id, name=z.name, timetables=z.timetables, calendar=z.calendar, numbers=z.numbers, hand=z.hand
            )
            for z in home.zones
        ),
    )


def with_file(home: Home, file: TimetableFile) -> TimetableImport:
    """Return a home with a file's timetables, levels, kinds of day and dates, and what was found.

    Zones are matched by id in the same home, else by name; levels by id, else by name, others are added. Zones that
    the file does not name stay as they are.

    Raises
    ------
    HomeError
        If no zone of the file is in this home.
    """
    findings: list[FileFinding] = []
    is_same = file.home_id == home.id
    if not is_same:
        findings.append(
            FileFinding("home_id", f"this file is of another home, {file.home_name!r}", "its zones are matched by name")
        )
    if file.clock != home.time_zone:
        findings.append(
            FileFinding("clock", f"it was written for the clock of {file.clock}", f"its times hold in {home.time_zone}")
        )
    levels, level_ids = _levels(home, file, findings)
    kinds, kind_ids = _kinds(home, file)
    changed = replace(home, levels=levels, day_kinds=kinds)
    taken = 0
    for number, each in enumerate(file.zones):
        zone = _zone_for(home, each, number, is_same=is_same, findings=findings)
        if zone is None:
            continue
        changed = replace(
            changed,
            zones=tuple(
                _filled(z, each, level_ids, kind_ids, keep_ids=is_same) if z.id == zone.id else z for z in changed.zones
            ),
        )
        taken += 1
    if not taken:
        raise HomeError("none of this file's zones is in this home; name them alike first")
    known = {k.id for k in changed.day_kinds}
    specials = {s.on: s for s in home.special_days}
    specials |= {
        s.on: replace(s, kind_id=kind_ids.get(s.kind_id, s.kind_id))
        for s in file.special_days
        if kind_ids.get(s.kind_id, s.kind_id) in known
    }
    changed = replace(changed, special_days=tuple(specials[on] for on in sorted(specials)))
    return TimetableImport(home=changed, findings=tuple(findings), zones=taken)


def _levels(home: Home, file: TimetableFile, findings: list[FileFinding]) -> tuple[tuple[Level, ...], dict[str, str]]:
    """Return the home's levels with the file's numbers, new ones added, and the file's ids as the home's."""
    levels, ids = list(home.levels), {}
    for number, level in enumerate(file.levels):
        place = next((k for k, x in enumerate(levels) if x.id == level.id or x.name == level.name), None)
        if place is None:
            findings.append(FileFinding(f"levels.{number}", f"{level.name} is no level of this home", "it is added"))
            taken = {part.id for part in home.parts()}
            fresh = level.id if level.id not in taken else f"{level.id[:18]}-file"
            levels.append(replace(level, id=fresh))
            ids[level.id] = fresh
            continue
        old = levels[place]
        if replace(level, id=old.id, name=old.name) != old:
            words = sentence(
                "{} is {} here and {} in the file, or else differs",
                old.name,
                celsius(old.heating_c),
                celsius(level.heating_c),
            )
            findings.append(FileFinding(f"levels.{number}", words, "the file's numbers are taken"))
        levels[place] = replace(level, id=old.id, name=old.name)
        ids[level.id] = old.id
    return tuple(levels), ids


def _kinds(home: Home, file: TimetableFile) -> tuple[tuple[DayKind, ...], dict[str, str]]:
    kinds, ids = list(home.day_kinds), {}
    for kind in file.day_kinds:
        place = next((k for k, x in enumerate(kinds) if x.id == kind.id or x.name == kind.name), None)
        if place is None:
            kinds.append(kind)
            ids[kind.id] = kind.id
        else:
            ids[kind.id] = kinds[place].id
            kinds[place] = replace(kind, id=kinds[place].id)
    return tuple(kinds), ids


def _zone_for(
    home: Home, each: ZoneTimetables, number: int, *, is_same: bool, findings: list[FileFinding]
) -> Zone | None:
    by_id = next((z for z in home.zones if z.id == each.id), None) if is_same else None
    if by_id is not None:
        return by_id
    name = nearest(each.name, [z.name for z in home.zones])
    if name is None:
        findings.append(
            FileFinding(f"zones.{number}", f"there is no zone {each.name!r} in this home", "it is left out")
        )
        return None
    if name != each.name:
        findings.append(FileFinding(f"zones.{number}", f"there is no zone {each.name!r}", f"it is taken for {name!r}"))
    return next(z for z in home.zones if z.name == name)


def _filled(
    zone: Zone, each: ZoneTimetables, level_ids: dict[str, str], kind_ids: dict[str, str], *, keep_ids: bool
) -> Zone:
    """Return a zone with a file's timetables, its levels and kinds of day by their ids here."""
    fresh = {t.id: t.id if keep_ids else f"{zone.id[:16]}-f{k}" for k, t in enumerate(each.timetables)}

    def points(given: tuple[ChangePoint, ...]) -> tuple[ChangePoint, ...]:
        return tuple(replace(p, level_id=level_ids.get(p.level_id, p.level_id)) for p in given)

    timetables = tuple(
        replace(
            t,
            id=fresh[t.id],
            usual=points(t.usual),
            days=tuple(replace(d, of=kind_ids.get(d.of, d.of), points=points(d.points)) for d in t.days),
        )
        for t in each.timetables
    )
    return replace(
        zone,
        timetables=timetables,
        calendar=tuple(replace(p, timetable_id=fresh.get(p.timetable_id, p.timetable_id)) for p in each.calendar),
        numbers=tuple(replace(n, level_id=level_ids.get(n.level_id, n.level_id)) for n in each.numbers),
        hand=each.hand,
    )
