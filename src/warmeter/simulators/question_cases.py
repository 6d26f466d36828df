"""Random nights of a rule that asks, on which both ways of following a question have to agree."""

import random
from dataclasses import dataclass

from warmeter.core.rule.asking import AskTerms, AskWish, GivenAnswer
from warmeter.core.rule.notifications import quiet_by_clock
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.units import MS_PER_H, MS_PER_MIN

HOME_CLOCK = LocalClock("Europe/Madrid")
# A plain night, and those of the two changes of its clock.
NIGHTS_MS = tuple(parse_utc(text) for text in ("2026-11-10T20:00Z", "2026-10-24T20:00Z", "2027-03-27T20:00Z"))
NIGHT_H = 14


@dataclass(frozen=True, slots=True)
class QuestionCase:
    """Wishes to ask and answers of a night from a start to an end [ms UTC], and how the question is asked."""

    wishes: list[AskWish]
    answers: list[GivenAnswer]
    terms: AskTerms
    start_ms: int
    end_ms: int


def random_night(seed: int) -> QuestionCase:
    """Return a night, on whole minutes so that much falls into one instant; the same for the same seed."""
    chance = random.Random(seed)  # noqa: S311
    start = chance.choice(NIGHTS_MS)
    end = start + NIGHT_H * MS_PER_H
    wishes: list[AskWish] = []
    at = start
    while True:
        at += chance.choice((1, 3, 10, 30, 90, 240)) * MS_PER_MIN
        if at > end:
            break
        until = None if chance.random() < 0.5 else at + chance.choice((0, 1, 5, 30, 200)) * MS_PER_MIN
        wishes.append(AskWish(at, until))
    answers: list[GivenAnswer] = []
    for wish in wishes:
        for _ in range(chance.choice((0, 0, 1, 1, 2, 3))):
            given = wish.at + chance.choice((0, 1, 5, 10, 11, 30, 45, 300)) * MS_PER_MIN
            answers.append(GivenAnswer(given, chance.choice(("yes", "no", "yes", "no", "perhaps"))))
    terms = AskTerms(
        options=("yes", "no"),
        wait=chance.choice((1, 10, 45)) * MS_PER_MIN,
        late=chance.choice((0, 1, 35, 300)) * MS_PER_MIN,
        remember=chance.choice((0, 0, 30, 600)) * MS_PER_MIN,
        in_quiet=chance.choice(("hold", "drop", "send")),
        quiet=quiet_by_clock(HOME_CLOCK, *chance.choice(((1320, 420), (120, 180), (150, 151), (0, 0)))),
    )
    return QuestionCase(wishes, sorted(answers, key=lambda answer: answer.at), terms, start, end)
