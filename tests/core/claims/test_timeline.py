"""Who decides through a day (J9) against a walk that looks at every minute anew."""

import unittest
from dataclasses import dataclass, field

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.cli.why_agree import disagreement
from warmeter.core.claims.arbiter import Claim, Guard, limits_at
from warmeter.core.claims.timeline import TimelineEvent, base_of, hand_claims, timeline

MIN = 60_000
LENGTH = 120
RULES = ("A", "B")
KINDS = ("timetable", "presence", "rule", "window_lock", "safety")

CLAIMS = st.lists(
    st.tuples(
        st.sampled_from(KINDS),
        st.integers(5, 28),
        st.integers(0, LENGTH),
        st.one_of(st.none(), st.integers(1, 90)),
        st.sampled_from(RULES),
    ),
    max_size=6,
)
EVENTS = st.lists(
    st.tuples(
        st.integers(0, LENGTH - 1),
        st.sampled_from(
            (
                "release",
                "hand away",
                "person",
                "empty",
                "in_use",
                "not_known",
                "suspend",
                "resume",
                "refuse",
                "accept",
                "stop",
                "back",
            )
        ),
        st.integers(0, 5),
        st.one_of(st.none(), st.integers(1, 60)),
        st.one_of(st.none(), st.integers(1, 30)),
    ),
    max_size=10,
)


@dataclass
class Walk:
    """The rules of J9 told once more, minute by minute."""

    claims: list[Claim]
    guard: tuple[float | None, float | None]
    base: float
    value: float
    room: str
    empty_since: int | None
    hand: tuple[float, int, int | None, int | None] | None = None
    gone: set[str] = field(default_factory=set)
    silent: dict[str, int | None] = field(default_factory=dict)
    refuses: bool = False

    def apply(self, event: TimelineEvent, now: int) -> None:
        match event.do:
            case "release":
                if event.id == "hand":
                    self.hand = None
                else:
                    self.gone.add(event.id)
            case "person":
                until = None if event.until_ms is None else event.until_ms // MIN
                empty = None if event.empty_ms is None else event.empty_ms // MIN
                self.base = self.value = event.value
                self.hand = (event.value, now, until, empty)
            case "room":
                if event.state == "empty":
                    self.empty_since = now if self.room != "empty" else self.empty_since
                else:
                    self.empty_since = None
                self.room = event.state
            case "suspend":
                self.silent[event.rule] = None if event.until_ms is None else event.until_ms // MIN
            case "resume":
                self.silent.pop(event.rule, None)
            case "refuse":
                self.refuses = True
            case "accept":
                self.refuses = False

    def minute(self, now: int) -> tuple[float, float, str, bool]:
        self.silent = {rule: until for rule, until in self.silent.items() if until is None or until > now}
        if self.hand is not None:
            _, since, until, empty = self.hand
            gone_empty = (
                empty is not None and self.empty_since is not None and now >= max(since, self.empty_since) + empty
            )
            if (until is not None and now >= until) or gone_empty:
                self.hand = None
        best, name, strength, rank = self.base, "base", 0.0, (-1.0, -1, -1)
        for place, claim in enumerate(self.claims):
            over = claim.until_ms is not None and now * MIN >= claim.until_ms
            if claim.from_ms > now * MIN or over or claim.id in self.gone:
                continue
            if claim.rule in self.silent and claim.strength < 100:
                continue
            key = (claim.strength, claim.from_ms, place)
            if key > rank:
                best, name, strength, rank = claim.value, claim.id, claim.strength, key
        if self.hand is not None and (60.0, self.hand[1] * MIN, 10**6) > rank:
            best, name, strength = self.hand[0], "hand", 60.0
        low, high = self.guard
        asked = best
        if low is not None and strength < 100:
            asked = max(asked, low)
        if high is not None:
            asked = min(asked, high)
        if not self.refuses:
            self.value = asked
        return self.value, asked, name, asked != best


def happening(row: tuple[int, str, int, int | None, int | None]) -> TimelineEvent:
    at, do, which, until, empty = row
    until_ms = None if until is None else (at + until) * MIN
    empty_ms = None if empty is None else empty * MIN
    if do == "hand away":
        return TimelineEvent(at_ms=at * MIN, do="release", id="hand")
    if do in ("empty", "in_use", "not_known"):
        return TimelineEvent(at_ms=at * MIN, do="room", state=do)  # type: ignore[arg-type]
    return TimelineEvent(
        at_ms=at * MIN,
        do=do,  # type: ignore[arg-type]
        id=f"c{which}",
        value=15.0 + which,
        until_ms=until_ms,
        empty_ms=empty_ms,
        rule=RULES[which % 2],
    )


class Timeline(unittest.TestCase):
    @settings(deadline=None, derandomize=True, max_examples=250)
    @given(
        CLAIMS,
        EVENTS,
        st.one_of(st.none(), st.integers(8, 14)),
        st.one_of(st.none(), st.integers(20, 26)),
        st.sampled_from(("empty", "in_use", "not_known")),
    )
    def test_every_minute_is_as_a_plain_walk_says(self, rows, events, low, high, room) -> None:  # type: ignore[no-untyped-def]
        claims = [
            Claim(
                kind=kind,
                value=float(value),
                from_ms=begin * MIN,
                until_ms=None if length is None else (begin + length) * MIN,
                id=f"c{k}",
                rule=rule if kind == "rule" else "",
            )
            for k, (kind, value, begin, length, rule) in enumerate(rows)
        ]
        guard = Guard(low=None if low is None else float(low), high=None if high is None else float(high))
        happenings = [happening(row) for row in events]
        found = timeline(claims, [guard], happenings, base=base_of(17.0, 0), room=room, start_ms=0, end_ms=LENGTH * MIN)
        walk = Walk(
            claims=claims,
            guard=(guard.low, guard.high),
            base=17.0,
            value=17.0,
            room=room,
            empty_since=0 if room == "empty" else None,
        )
        queue = sorted(happenings, key=lambda h: h.at_ms)
        paused: list[TimelineEvent] | None = None
        place = -1
        for now in range(LENGTH):
            for event in [h for h in queue if h.at_ms == now * MIN]:
                if event.do == "stop":
                    paused = [] if paused is None else paused
                elif event.do == "back":
                    for kept in paused or ():
                        walk.apply(kept, now)
                    if paused is not None and walk.room == "empty":
                        walk.empty_since = now
                    paused = None
                elif paused is not None:
                    paused.append(event)
                else:
                    walk.apply(event, now)
            while place + 1 < len(found) and found[place + 1].at_ms <= now * MIN:
                place += 1
            if paused is None:
                entry = found[place]
                told = (entry.value, entry.decision.value, entry.decision.claim.id, entry.decision.is_clamped)
                self.assertEqual(told, walk.minute(now), now)

    def test_what_lies_below_is_in_the_order_in_which_it_would_decide(self) -> None:
        claims = [
            Claim(kind="timetable", value=17.0, from_ms=0, id="night"),
            Claim(kind="rule", value=19.0, from_ms=0, id="low rule", priority=40.1),
            Claim(kind="rule", value=18.0, from_ms=0, id="high rule", priority=40.9),
        ]
        person = TimelineEvent(at_ms=MIN, do="person", value=22.0, until_ms=9 * MIN, by="Ada")
        found = timeline(claims, [], [person], base=base_of(15.0, 0), room="in_use", start_ms=0, end_ms=20 * MIN)
        by_hand = next(entry for entry in found if entry.decision.claim.kind == "by_hand")
        self.assertEqual([claim.id for claim in by_hand.below], ["high rule", "low rule", "night"])
        self.assertEqual((by_hand.decision.claim.by, found[-1].decision.claim.id), ("Ada", "high rule"))

    def test_changes_by_hand_become_claims_with_the_ends_they_came_to(self) -> None:
        happenings = [
            TimelineEvent(at_ms=1 * MIN, do="person", value=20.0, until_ms=60 * MIN),
            TimelineEvent(at_ms=5 * MIN, do="person", value=20.0, until_ms=70 * MIN),
            TimelineEvent(at_ms=9 * MIN, do="release", id="hand"),
            TimelineEvent(at_ms=20 * MIN, do="person", value=23.0),
        ]
        held = hand_claims(happenings, room="not_known", start_ms=0, end_ms=90 * MIN)
        self.assertEqual(
            [(c.value, c.from_ms // MIN, (c.until_ms or 0) // MIN) for c in held],
            [(20, 1, 5), (20, 5, 9), (23, 20, 90)],
        )

    def test_of_guards_that_cross_the_upper_wins(self) -> None:
        guards = [Guard(low=20.0, id="damp"), Guard(high=18.0, from_ms=5 * MIN, id="heat")]
        self.assertEqual(limits_at(guards, 6 * MIN).clamp(25.0)[0], 18.0)

    def test_why_agrees_with_a_plain_walk_on_random_days_of_the_demo(self) -> None:
        for seed in range(1, 61):
            with self.subTest(seed):
                self.assertEqual(disagreement(seed), "")
