"""One day of people as a strip: each person, what each witness said, rooms in use, the home."""

from collections.abc import Iterator, Sequence

import numpy as np

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.home.document import Home
from warmeter.core.home.people import Witness
from warmeter.core.home.witness_kinds import WITNESS_TRAITS, holds_ms
from warmeter.core.presence.home_presence import ON_THE_WAY
from warmeter.core.presence.household_presence import JudgedPerson, JudgedWitness
from warmeter.core.presence.room_presence import RoomPresence
from warmeter.core.timegrid import LocalClock, LocalDay
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth
from warmeter.core.units import MS_PER_H, MS_PER_MIN
from warmeter.service.presence.household import HomePresenceNow
from warmeter.web import format as show
from warmeter.web.strip.day_axis import TABLE_MIN, day_axis, table_instants
from warmeter.web.strip.draw import DrawnStrip, draw
from warmeter.web.strip.lanes import Curve, Lane, ReferenceLine, StripStretch, StripView, Tick, gutter_name

LEFT_PX, RIGHT_PX = 158, 120
BAR = {TRUE: "wm-bar", FALSE: "wm-bar is-hollow", UNKNOWN: "wm-bar wm-notknown"}
STATE_WORD = {TRUE: "in", FALSE: "out", UNKNOWN: "not known"}
ROOM_WORD = {TRUE: "in use", FALSE: "empty", UNKNOWN: "not known"}
HALF = 0.5


def people_strip(
    home: Home, found: HomePresenceNow, clock: LocalClock, day: LocalDay, width: int, now_ms: int
) -> DrawnStrip:
    """Return a local day of a home's people for a width [px]."""
    drawn = _Day(found, day)
    lanes: list[Lane] = []
    for person in found.household.persons:
        lanes += drawn.person_lanes(person)
    names = {room.id: room.name for room in home.rooms}
    lanes += [drawn.room_lane(room, names[room.room_id]) for room in found.rooms]
    if home.people:
        lanes.append(drawn.home_lane())
    return draw(
        StripView(
            id="people",
            title="People and rooms in use",
            axis=day_axis(clock, day, width, now_ms),
            lanes=lanes,
            width=width,
            left=LEFT_PX,
            right=RIGHT_PX,
            attributes={"data-snap": "5 1"},
        )
    )


class _Day:
    """A day of what was found, cut from the log."""

    def __init__(self, found: HomePresenceNow, day: LocalDay) -> None:
        self._found, self._day = found, day
        self._table = table_instants(day)

    def _bars(self, state: Truth, values: Sequence[int] = (TRUE, FALSE, UNKNOWN)) -> Iterator[StripStretch]:
        for value in values:
            for begin, until in zip(*(edge.tolist() for edge in state.stretches(value)), strict=True):
                if until > self._day.start_ms and begin < self._day.end_ms:
                    yield StripStretch(start=self._at(begin), end=self._at(until), css=BAR[value])

    def _at(self, at_ms: int) -> float:
        """Return where an instant lies on the axis, cut to the day."""
        return (min(max(at_ms, self._day.start_ms), self._day.end_ms) - self._day.start_ms) / MS_PER_MIN

    def _heard(self) -> Ints:
        """Return instants of the table, those outside the log as -1."""
        log = self._found.log
        return np.where((self._table >= log.start_ms) & (self._table < log.end_ms), self._table, -1)

    def _words(self, state: Truth, words: dict[int, str]) -> list[str]:
        at = self._heard()
        said = state.at(np.maximum(at, int(state.at_ms[0])))
        return ["" if t < 0 else words[int(v)] for t, v in zip(at, said, strict=True)]

    def person_lanes(self, judged: JudgedPerson) -> Iterator[Lane]:
        """Yield a person's lane and one for each witness."""
        yield Lane(
            name=gutter_name(judged.person.name),
            height=30,
            stretches=list(self._bars(judged.presence.state)),
            table=[(self._words(judged.presence.state, STATE_WORD), "", "")],
        )
        for witness in judged.witnesses:
            yield self._witness_lane(witness)

    def _witness_lane(self, judged: JudgedWitness) -> Lane:
        label, reports = WITNESS_TRAITS[judged.witness.kind].label, judged.reports
        if reports is None:
            unheard = ["no data"] * self._table.size
            return Lane(
                name=label, height=20, is_part=True, left_note=hold_text(judged.witness), table=[(unheard, "", "")]
            )
        begin, until, says = reports.at_ms, reports.until_ms, reports.says
        near = (until > self._day.start_ms) & (begin < self._day.end_ms) & (says != UNKNOWN)
        stretches = [
            StripStretch(start=self._at(b), end=self._at(u), css=BAR[s])
            for b, u, s in _joined(begin[near], until[near], says[near])
        ]
        turned = np.append(True, says[1:] != says[:-1]) & near & (begin >= self._day.start_ms)
        ticks = [Tick(at=self._at(t)) for t in begin[turned].tolist()] if turned.sum() <= 60 else []
        votes = reports.votes(self._table)
        said = reports.standing(self._table)
        read = [
            "silent" if word == UNKNOWN else f"{STATE_WORD[int(word)]} {show.number(vote, 2, is_signed=True)}"
            for word, vote in zip(said.tolist(), votes.tolist(), strict=True)
        ]
        return Lane(
            name=label,
            height=20,
            is_part=True,
            left_note=hold_text(judged.witness),
            stretches=stretches,
            ticks=ticks,
            table=[(read, "", "")],
        )

    def room_lane(self, room: RoomPresence, name: str) -> Lane:
        """Return a room's lane: how likely somebody is in it."""
        chance = self._of_day(room.probability.chance)
        at = np.arange(0, chance.size, TABLE_MIN)
        state = self._of_day(room.state.astype(np.float64))
        words = ["" if np.isnan(v) else ROOM_WORD[int(v)] for v in state[at].tolist()]
        read = ["" if np.isnan(v) else show.number(v, 2) for v in chance[at].tolist()]
        curve = Curve(values=chance, css="wm-chance")
        return Lane(
            name=gutter_name(name),
            note="in use, 0 to 1",
            height=46,
            axis=[(0.0, "0"), (1.0, "1")],
            curves=(curve,),
            fills=(Curve(values=chance, css="wm-chancefill"),),
            levels=[ReferenceLine(value=HALF, css="wm-thr wm-dash", label="")],
            table=[(read, "", ""), (words, "", "")],
        )

    def _of_day(self, values: Floats | Bytes) -> Floats:
        """Return values by minute of the log as those of the day, NaN outside the log."""
        minutes = (self._day.end_ms - self._day.start_ms) // MS_PER_MIN
        first = (self._day.start_ms - self._found.log.start_ms) // MS_PER_MIN
        place = first + np.arange(minutes)
        inside = (place >= 0) & (place < values.size)
        return np.where(inside, values[np.clip(place, 0, values.size - 1)], np.nan)

    def home_lane(self) -> Lane:
        """Return the home's lane, with who is on the way."""
        state = self._found.household.home.state
        bars = list(self._bars(state))
        for begin, until, by in zip(
            state.at_ms.tolist(), [*state.at_ms[1:].tolist(), state.end_ms], self._found.household.home.by, strict=True
        ):
            if by is not None and by.startswith(ON_THE_WAY) and until > self._day.start_ms and begin < self._day.end_ms:
                bars.append(StripStretch(start=self._at(begin), end=self._at(until), css="wm-bar wm-way"))
        return Lane(name="Home", height=30, stretches=bars, table=[(self._words(state, STATE_WORD), "", "")])


def _joined(begin: Ints, until: Ints, says: Bytes) -> list[tuple[int, int, int]]:
    """Return reports that follow each other with the same word as one."""
    rows: list[tuple[int, int, int]] = []
    for b, u, s in zip(begin.tolist(), until.tolist(), says.tolist(), strict=True):
        if rows and rows[-1][2] == s and b <= rows[-1][1]:
            rows[-1] = rows[-1][0], max(rows[-1][1], u), s
        else:
            rows.append((b, u, s))
    return rows


def hold_text(witness: Witness) -> str:
    """Return how long a witness's word stands."""
    hold_in, hold_out = holds_ms(witness)
    return " / ".join(_short(hold) for hold in dict.fromkeys((hold_in, hold_out)))


def _short(length_ms: int) -> str:
    """Return a length in hours where they are whole, else in minutes."""
    hours, rest = divmod(length_ms, MS_PER_H)
    return f"{hours} h" if hours and not rest else f"{length_ms // MS_PER_MIN} min"
