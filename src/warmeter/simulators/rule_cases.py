"""Random rules over random logs, on which both evaluators of rules have to agree."""

import random
from collections.abc import Sequence as Many
from datetime import date, timedelta

import numpy as np

from warmeter.core.arrays import Ints
from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.dates import Dates
from warmeter.core.home.conditions.evening import Evening
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.happens import Happens
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.kinds import SINGLE_KINDS, Single
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.on_occasion import OnOccasion
from warmeter.core.home.conditions.ran_today import RanToday
from warmeter.core.home.conditions.sequence import Clauses, Sequence
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.conditions.sun_stands import SunStands
from warmeter.core.home.machines import Asking, ToldSetting
from warmeter.core.home.rules import MarkFact, PutBack, Rule, RuleLimits, SetLevel, Step, Suspension, Tell, TimedRun
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.scope import LevelLine, Marks, Scope
from warmeter.core.truth.track import Track
from warmeter.core.units import MS_PER_H

ZONES = ("Europe/London", "Australia/Lord_Howe", "America/Santiago", "UTC")
# Around changes of the clock in one or the other zone, and plain days.
STARTS = (
    "2026-03-28T11:00:00Z",
    "2026-04-04T12:00:00Z",
    "2026-09-05T20:00:00Z",
    "2026-10-24T22:00:00Z",
    "2026-06-10T00:00:00Z",
)
TEMPERATURE, DAMP = (
    Signal(quantity="room_temperature", subject_id="r"),
    Signal(quantity="relative_humidity", subject_id="r"),
)
CONTACT, POWER = Signal(quantity="is_open", subject_id="w"), Signal(quantity="electric_w", subject_id="m")
NEVER_HEARD = Signal(quantity="room_temperature", subject_id="nobody")
WAITS_S = (0, 0, 1, 30, 60, 61, 300, 900, 3600)


def random_case(seed: int) -> tuple[Rule, Scope]:
    """Return a rule and what it is looked at with; the same for the same seed."""
    chance = random.Random(seed)  # noqa: S311
    start = parse_utc(chance.choice(STARTS)) + chance.randrange(0, 3600) * 1000
    hours = chance.choice((3, 12, 40))
    scope = _scope(chance, start, start + hours * MS_PER_H)
    return _rule(chance, scope), scope


def _instants(chance: random.Random, start_ms: int, end_ms: int, count: int) -> list[int]:
    """Return rising instants on whole seconds, some of them twice, some on even minutes so that they meet."""
    grid = chance.choice((1000, 60_000, 300_000))
    return sorted(chance.randrange(start_ms - 3_600_000, end_ms) // grid * grid for _ in range(count))


def _track(chance: random.Random, start_ms: int, end_ms: int, values: Many[float]) -> Track:
    at = _instants(chance, start_ms, end_ms, chance.choice((0, 3, 20, 80)))
    value = [float("nan") if chance.random() < 0.05 else chance.choice(values) for _ in at]
    return Track(np.array(at, dtype=np.int64), np.array(value))


_TOLD: tuple[tuple[Asking, ...], ...] = ((), ("finished",), ("finished", "left_on", "ran_today"))


def _scope(chance: random.Random, start: int, end: int) -> Scope:
    def events() -> Ints:
        return np.unique(np.array(_instants(chance, start, end, chance.choice((0, 2, 8))), dtype=np.int64))

    marks = sorted(set(_instants(chance, start, end, chance.choice((0, 2, 6)))))
    clock = LocalClock(chance.choice(ZONES))
    levels = sorted({start - 1000, *_instants(chance, start, end, chance.choice((1, 5)))})
    return Scope(
        start_ms=start,
        end_ms=end,
        clock=clock,
        latitude_deg=chance.choice((51.0, -33.0, 69.0)),
        longitude_deg=chance.choice((0.0, 150.0, -70.0)),
        tracks={
            TEMPERATURE: _track(chance, start, end, [18 + k / 4 for k in range(17)]),
            DAMP: _track(chance, start, end, [40.0 + 2 * k for k in range(12)]),
            CONTACT: _track(chance, start, end, (0.0, 1.0)),
            POWER: _track(chance, start, end, (0.0, 2.0, 6.0, 400.0)),
        },
        events={("button", "", "b"): events(), ("statement", "answered", None): events()},
        marks={
            "guests": Marks(
                np.array(marks, dtype=np.int64), np.array([chance.random() < 0.5 for _ in marks], dtype=bool)
            )
        },
        levels={
            "z": LevelLine(np.array(levels, dtype=np.int64), tuple(chance.choice(("u", "o", "i")) for _ in levels))
        },
        occasions={"collection": _days(chance, clock, start, end)},
        settings={
            ("m", tells): ToldSetting(
                tells=tells,
                threshold_w=chance.choice((2.0, 5.0)),
                wait_s=chance.choice((0, 60, 600)),
                hysteresis_w=chance.choice((0.0, 1.0)),
                start_s=chance.choice((0, 0, 60)),
            )
            for tells in chance.choice(_TOLD)
        },
    )


def _days(chance: random.Random, clock: LocalClock, start_ms: int, end_ms: int) -> frozenset[date]:
    """Return some of the dates from the day before a stretch to two days after it."""
    first = clock.local(start_ms).date() - timedelta(days=1)
    count = (clock.local(end_ms).date() - first).days + 3
    return frozenset(first + timedelta(days=k) for k in range(count) if chance.random() < 0.5)


def _single(chance: random.Random, scope: Scope) -> Single:
    minute = chance.choice((0, 60, 119, 120, 150, 390, 780, 1320, 1439))
    other = chance.choice((30, 120, 150, 420, 1200))
    weekdays = chance.choice(((), (), (5, 6), (0, 1, 2, 3, 4)))
    signal = chance.choice((TEMPERATURE, DAMP))
    value = chance.choice((19.0, 20.0, 21.5)) if signal == TEMPERATURE else chance.choice((48.0, 55.0))
    minus = chance.choice((None, None, None, TEMPERATURE, NEVER_HEARD))
    on = scope.clock.local(scope.start_ms).date()
    rows: tuple[Single, ...] = (
        Compared(
            of=signal, how=chance.choice(("over", "under")), value=value, hysteresis=chance.choice((0.0, 0.5, 3.0))
        ),
        Compared(of=signal, how="between", value=value, high=value + 2, hysteresis=chance.choice((0.0, 0.5))),
        Compared(of=DAMP, how="over", value=30.0, minus=minus, hysteresis=chance.choice((0.0, 2.0))),
        Moving(
            of=signal,
            how=chance.choice(("rising", "falling")),
            by=chance.choice((0.5, 1.0, 4.0)),
            within_s=chance.choice((60, 600, 3600)),
            minus=minus,
        ),
        InState(of=CONTACT, is_on=chance.random() < 0.7),
        InState(of=NEVER_HEARD),
        Silent(of=chance.choice((TEMPERATURE, CONTACT, NEVER_HEARD)), for_s=chance.choice((60, 600, 3600))),
        Hours(from_min=minute, until_min=other, weekdays=weekdays),
        AtTime(at_min=minute, weekdays=weekdays),
        Dates(from_month=on.month, from_day=on.day, until_month=on.month, until_day=min(on.day + 1, 28)),
        Dark(is_dark=chance.random() < 0.7, below_deg=chance.choice((-0.833, -6.0, 5.0))),
        SunStands(
            from_deg=chance.choice((90.0, 200.0, 300.0)),
            until_deg=chance.choice((100.0, 260.0)),
            over_deg=chance.choice((0.0, 12.0)),
        ),
        Evening(
            which=chance.choice(("dark", "clock", "first", "last")), clock_min=1200, until_min=chance.choice((0, 390))
        ),
        Happens(event=chance.choice(("button", "statement"))),
        MachineDoes(appliance_id="m", does=chance.choice(("runs", "finished", "idle", "left_on"))),
        RanToday(
            appliance_id="m",
            counts=chance.choice(("started", "ended", "ran")),
            least_s=chance.choice((0, 600)),
            reset_min=minute,
            has=chance.random() < 0.5,
        ),
        Fact(
            word=chance.choice(("guests", "heating")),
            is_true=chance.random() < 0.6,
            reset_min=chance.choice((None, 240)),
        ),
        OnOccasion(
            occasion_id=chance.choice(("collection", "collection", "gone")),
            day=chance.choice(("today", "tomorrow")),
            is_so=chance.random() < 0.6,
        ),
        AtLevel(zone_id=chance.choice(("z", "z", "gone")), level_ids=("u", "i"), is_at=chance.random() < 0.6),
    )
    plain = tuple(kind(**kind.USUAL) for kind in SINGLE_KINDS if kind.NAME)  # a kind that is not known here
    return chance.choice((*rows, chance.choice(plain)))


def _condition(chance: random.Random, scope: Scope) -> Condition:
    if chance.random() < 0.1:
        return Sequence(
            first=_single(chance, scope),
            then=_single(chance, scope),
            within_s=chance.choice((0, 60, 3600)),
            unless=_single(chance, scope) if chance.random() < 0.6 else None,
            cancel_s=chance.choice((None, 0, 60, 600)),
            repeat=chance.choice(("latest", "first")),
        )
    return _single(chance, scope)


def _clauses(chance: random.Random, scope: Scope, least: int) -> Clauses:
    count = max(least, chance.choice((0, 0, 0, 1, 2)))
    return tuple(tuple(_condition(chance, scope) for _ in range(chance.choice((1, 2, 3)))) for _ in range(count))


def _rule(chance: random.Random, scope: Scope) -> Rule:
    when = _clauses(chance, scope, chance.choice((0, 1)))
    after, at = chance.choice((None, None, 60, 3600)), chance.choice((None, None, 120, 390))
    steps: tuple[Step, ...] = (
        SetLevel(zone_ids=("z",), level_id="i", wait_s=chance.choice((0, 60))),
        Tell(group_id="c", wait_s=chance.choice((0, 600))),
        TimedRun(target_ids=("d",), for_s=chance.choice((60, 900))),
        MarkFact(word="done", wait_s=chance.choice((0, 30))),
    )
    suspended = None
    if chance.random() < 0.15:
        begin = chance.randrange(scope.start_ms, scope.end_ms) // 1000 * 1000
        suspended = Suspension(from_ms=begin, until_ms=chance.choice((None, begin + 1_800_000)))
    return Rule(
        id="x",
        name="random",
        kind=chance.choice(("safety", "window_lock", "rule", "rule")),
        watch=_clauses(chance, scope, 1),
        reading=chance.choice(("becomes", "is")),
        for_s=chance.choice(WAITS_S),
        only_while=_clauses(chance, scope, 0),
        as_long_as=_clauses(chance, scope, 0) if chance.random() < 0.3 else (),
        then=tuple(chance.sample(steps, chance.choice((1, 2)))),
        put_back=PutBack(when=when, for_s=chance.choice(WAITS_S), after_s=after, at_min=at)
        if when or after or at
        else None,
        limits=RuleLimits(
            min_on_s=chance.choice(WAITS_S),
            min_off_s=chance.choice(WAITS_S),
            most_a_day=chance.choice((None, None, 1, 3)),
            cool_off_s=chance.choice(WAITS_S),
            stale_s=chance.choice((60, 600, 3600, 86_400)),
            when_stale=chance.choice(("keep", "put_back", "tell")),
            lock_starts=chance.choice((1, 2, 3)),
            lock_window_s=chance.choice((60, 600, 3600)),
            lock_for_s=chance.choice((0, 600, 3600)),
        ),
        is_restarted=chance.random() < 0.3,
        suspended=suspended,
    )
