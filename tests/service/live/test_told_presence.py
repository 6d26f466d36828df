"""Presence told while a home is followed live: rules go by what was known then, and a replay by the same."""

import unittest
from dataclasses import replace

from tests.served import fresh_app
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.document import Home
from warmeter.core.home.rules import NotificationGroup, PutBack, Rule, Tell
from warmeter.core.link.usual_topics import usual_topic
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import Person
from warmeter.service.homes.editing import create_home
from warmeter.service.live.played_home import PlayedHome
from warmeter.service.live.setting_up import linked
from warmeter.service.presence.told_presence import TOLD_EVENT, presence_track
from warmeter.simulators.ferry_house import COMMUTE_SEED, SEED, ferry_house
from warmeter.simulators.household import household
from warmeter.simulators.household_distance import with_distances
from warmeter.store.live_readings import HeardReading

OUT = Signal(quantity="is_home")
ALL_OUT = Rule(
    id="all-out",
    name="All out",
    watch=((InState(of=OUT, is_on=False),),),
    for_s=600,
    then=(Tell(group_id="all"),),
    put_back=PutBack(when=((InState(of=OUT),),)),
)


class PresenceTold(unittest.TestCase):
    """Two people with telephones, doors and motion, heard as their log has it."""

    def setUp(self) -> None:
        heard = with_distances(household(SEED), COMMUTE_SEED).heard
        self.log = sorted(
            (int(at_ms), quantity, device, float(value))
            for (quantity, device), (times, values) in heard.items()
            for at_ms, value in zip(times, values, strict=True)
        )
        group = NotificationGroup(id="all", name="Everybody", loudness="aloud")
        home, _ = ferry_house()
        self.home = linked(
            replace(home, rules=(ALL_OUT,), notification_groups=(group,), link=replace(home.link, mode="send"))
        )

    def played(self, home: Home, start_min: int) -> PlayedHome:
        """Return the home followed from so many minutes into the fourth day of the log."""
        app = fresh_app()
        create_home(app, home, Person("Ada"), "made")
        start_ms = self.log[0][0] + 3 * MS_PER_DAY + start_min * MS_PER_MIN
        return PlayedHome(app, home, start_ms, 1)

    def hear(self, at: PlayedHome, minutes: int, look_min: int = 1) -> None:
        """Let the log be heard for some minutes, with a look every so often."""
        for _ in range(minutes // look_min):
            until = at.clock.now_ms + look_min * MS_PER_MIN
            for at_ms, quantity, device, value in self.log:
                if at.clock.now_ms <= at_ms < until:
                    at.clock.now_ms = at_ms
                    words = QUANTITIES[quantity].states
                    at.say(usual_topic(at.home_id, device, quantity), words[int(value >= 0.5)] if words else f"{value}")
            at.clock.now_ms = until
            at.look()

    def test_a_rule_that_has_fired_is_not_undone_by_what_a_late_report_says_of_then(self) -> None:
        at = self.played(self.home, 0)
        self.hear(at, 800, look_min=100)
        self.hear(at, 45)
        (*_, fired) = at.fired_live()["all-out"]
        self.assertIsNone(fired.end_ms)
        now_ms = at.clock.now_ms
        phones = [s.id for s in at.app.readings.series(at.home_id) if s.record.quantity == "is_home"]
        at.app.live_readings.add(
            [
                HeardReading(
                    series_id=series_id,
                    at_ms=fired.at_ms - 5 * MS_PER_MIN,
                    value=1.0,
                    heard_ms=now_ms,
                    real_ms=now_ms,
                    message_id=0,
                )
                for series_id in phones
            ]
        )
        self.hear(at, 3)
        (*_, after) = at.fired_live()["all-out"]
        self.assertEqual(after.at_ms, fired.at_ms)
        self.assertIn(after.why, ("", "when"))
        self.assertEqual(at.fired_replayed()["all-out"], at.fired_live()["all-out"])

    def test_long_after_the_last_look_the_log_speaks_again(self) -> None:
        at = self.played(self.home, 800)
        self.hear(at, 30)
        told = at.app.events.since(at.home_id, TOLD_EVENT, "", 0)
        self.assertIn(told[-1].detail, ("in", "out"))
        later = at.clock.now_ms + 3 * MS_PER_DAY
        track = presence_track(at.app, self.home, "", later - MS_PER_DAY // 2, later)
        self.assertEqual(track.at_ms.tolist(), sorted(track.at_ms.tolist()))
        self.assertGreater(int(track.at_ms[-1]), told[-1].at_ms)


if __name__ == "__main__":
    unittest.main()
