"""Timetables as files bring them: blocks from, to and level, brought into a home with what was found and mended."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches

from warmeter.core.home.document import Home
from warmeter.core.home.timetables import ChangePoint, DayProfile, Points, Timetable
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, sentence
from warmeter.core.timetable.calendar import USUAL
from warmeter.core.units import MIN_PER_DAY

LOWEST_C, HIGHEST_C = 4.0, 32.0


@dataclass(frozen=True, slots=True)
class FileFinding:
    """What is doubtful in a file: where, what, and how it is mended if the file is taken."""

    place: str
    sentence: str
    fix: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftBlock:
    """A block of a file [min]; one that ends at or before its start ends on the next day."""

    place: str
    from_min: int
    to_min: int
    level: str
    own_setpoint_c: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftTimetable:
    """A timetable of a file: its zone and name, and its days by key; ``place`` is where it begins.

    ``is_checked`` says that holes and overlaps were looked for already, over the week.
    """

    place: str
    zone: str
    name: str
    days: Mapping[str, Sequence[DraftBlock]]
    is_checked: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetableImport:
    """A home with a file's timetables, and what was found on the way."""

    home: Home
    findings: tuple[FileFinding, ...]
    zones: int


def nearest(name: str, names: Sequence[str]) -> str | None:
    """Return the name that is meant: equal but for case, else a close one; None if there is none."""
    by_case = {each.casefold(): each for each in names}
    if name.strip().casefold() in by_case:
        return by_case[name.strip().casefold()]
    close = get_close_matches(name.strip().casefold(), list(by_case), n=1, cutoff=0.75)
    return by_case[close[0]] if close else None


def points_of(
    home: Home, blocks: Sequence[DraftBlock], findings: list[FileFinding], whose: str, *, is_checked: bool = False
) -> Points:
    """Return a day's change points from its blocks; overlaps, holes and odd numbers are found and mended.

    Of blocks that overlap the later start holds from its start; over a hole the block before goes on.
    """
    levels = {level.name: level for level in home.levels}
    kept: list[tuple[DraftBlock, ChangePoint]] = []
    for block in sorted(blocks, key=lambda b: b.from_min):
        name = nearest(block.level, list(levels))
        if name is None:
            findings.append(FileFinding(block.place, f"there is no level {block.level!r}", "this period is left out"))
            continue
        if name != block.level:
            findings.append(FileFinding(block.place, f"there is no level {block.level!r}", f"it is taken for {name!r}"))
        own = block.own_setpoint_c
        if own is not None and not LOWEST_C <= own <= HIGHEST_C:
            clipped = min(max(own, LOWEST_C), HIGHEST_C)
            findings.append(
                FileFinding(
                    block.place,
                    sentence("{} is no setpoint of a home ({})", celsius(own), celsius(LOWEST_C, until=HIGHEST_C)),
                    sentence("{} is taken", celsius(clipped)),
                )
            )
            own = clipped
        if own is not None and abs(own - levels[name].heating_c) < 1e-9:
            own = None
        if not 0 <= block.from_min < MIN_PER_DAY:
            findings.append(FileFinding(block.place, "it begins outside the day", "this period is left out"))
            continue
        point = ChangePoint(start_min=block.from_min, level_id=levels[name].id, own_setpoint_c=own)
        if kept and kept[-1][1].start_min == point.start_min:
            findings.append(
                FileFinding(
                    block.place, f"two periods of {whose} begin at {_clock(block.from_min)}", "the later written holds"
                )
            )
            kept.pop()
        kept.append((block, point))
    if not is_checked:
        _edges(kept, findings, whose)
    return tuple(point for _, point in kept)


def _edges(kept: Sequence[tuple[DraftBlock, ChangePoint]], findings: list[FileFinding], whose: str) -> None:
    """Find holes and overlaps between neighbours, and between the last block and the first of a day like it."""
    for place, (block, _) in enumerate(kept):
        is_last = place + 1 == len(kept)
        begins = kept[0][0].from_min + MIN_PER_DAY if is_last else kept[place + 1][0].from_min
        ends = block.to_min if block.to_min > block.from_min else block.to_min + MIN_PER_DAY
        if ends > begins:
            findings.append(
                FileFinding(
                    block.place,
                    f"periods of {whose} overlap from {_clock(begins)} to {_clock(ends)}",
                    f"the one that begins at {_clock(begins)} holds from then on",
                )
            )
        elif ends < begins:
            findings.append(
                FileFinding(
                    block.place,
                    f"nothing is written for {whose} from {_clock(ends)} to {_clock(begins)}",
                    f"{block.level} continues until {_clock(begins)}",
                )
            )


def _clock(minute: int) -> str:
    return f"{minute // 60 % 24:02d}:{minute % 60:02d}"


def blocks_of_day(points: Points, next_first_min: int) -> list[tuple[int, int, ChangePoint]]:
    """Return a written day's blocks as (from, to, change point); the last runs into a day that begins like it."""
    ends = [point.start_min for point in points[1:]] + [next_first_min % MIN_PER_DAY]
    return [(point.start_min, end, point) for point, end in zip(points, ends, strict=True)]


def with_drafts(home: Home, drafts: Sequence[DraftTimetable], found: Sequence[FileFinding]) -> TimetableImport:
    """Return a home whose zones have a file's timetables.

    A timetable of a name that its zone has replaces it; another is added. Days written under a key stay as they are
    in the file. Zones are matched by name.
    """
    findings = list(found)
    meant: dict[tuple[str, str], DraftTimetable] = {}
    for draft in drafts:
        name = nearest(draft.zone, [zone.name for zone in home.zones])
        if name is None:
            findings.append(FileFinding(draft.place, f"there is no zone {draft.zone!r} in this home", "it is left out"))
            continue
        if name != draft.zone:
            findings.append(FileFinding(draft.place, f"there is no zone {draft.zone!r}", f"it is taken for {name!r}"))
        other = meant.get((name, draft.name))
        meant[name, draft.name] = replace(draft, zone=name) if other is None else _joined(other, draft)
    touched: set[str] = set()
    for draft in meant.values():
        zone = next(z for z in home.zones if z.name == draft.zone)
        changed = _timetable(home, zone, draft, findings)
        if changed is not None:
            home = _put(home, zone, changed)
            touched.add(zone.id)
    return TimetableImport(home=home, findings=tuple(findings), zones=len(touched))


def _joined(one: DraftTimetable, other: DraftTimetable) -> DraftTimetable:
    """Return two parts of one timetable, such as lines whose zone is spelled in two ways, as one."""
    keys = dict.fromkeys([*one.days, *other.days])
    return replace(one, days={key: (*one.days.get(key, ()), *other.days.get(key, ())) for key in keys})


def _timetable(home: Home, zone: Zone, draft: DraftTimetable, findings: list[FileFinding]) -> Timetable | None:
    whose = f"{zone.name}, {draft.name}"
    days = {
        key: points_of(home, blocks, findings, f"{whose}, {key}", is_checked=draft.is_checked)
        for key, blocks in draft.days.items()
    }
    before = next((t for t in zone.timetables if t.name == draft.name), None)
    usual = days.pop(USUAL, ())
    if not usual:
        usual = next((points for points in days.values() if points), before.usual if before else ())
        if not usual:
            findings.append(FileFinding(draft.place, f"{whose} has no period that could be taken", "it is left out"))
            return None
        if USUAL not in draft.days:
            findings.append(
                FileFinding(draft.place, f"{whose} has no usual day", "the first day written is taken for it too")
            )
    plans = tuple(DayProfile(of=key, points=points) for key, points in days.items() if points or not draft.days[key])
    key = before.id if before else _fresh(zone)
    return Timetable(id=key, name=draft.name, usual=usual, days=plans)


def _fresh(zone: Zone) -> str:
    """Return an id for a timetable that a zone does not have yet."""
    taken = {t.id for t in zone.timetables}
    return next(f"{zone.id[:18]}-t{k}" for k in range(100) if f"{zone.id[:18]}-t{k}" not in taken)


def _put(home: Home, zone: Zone, timetable: Timetable) -> Home:
    kept = tuple(timetable if t.id == timetable.id else t for t in zone.timetables)
    if timetable.id not in {t.id for t in zone.timetables}:
        kept = (*kept, timetable)
    changed = replace(zone, timetables=kept)
    return replace(home, zones=tuple(changed if z.id == zone.id else z for z in home.zones))
