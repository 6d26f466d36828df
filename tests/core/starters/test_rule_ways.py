"""The ways at a place: which there are, what they should catch, what they hang on."""

import unittest
from dataclasses import replace

from tests.core.starters.test_people_starters import HOME as WITH_PEOPLE
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.rules import SetLevel, SetPoint
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.starters.catalogue import STARTERS
from warmeter.core.starters.openings import opening_contacts
from warmeter.core.starters.rule_ways import COMPARED, starter_of, target_of, ways_at
from warmeter.core.starters.way_needs import devices_of, way_needs
from warmeter.service.homes.demo import DEMO_HOMES, demo_home

HOMES = [*(demo_home(name) for name in DEMO_HOMES), WITH_PEOPLE]


def with_contact(home: Home) -> tuple[Home, str]:
    """Return a home with a contact in its first room that has a temperature sensor and a zone."""
    room = dict(starter_of("drop").places(home))
    room_id = next(iter(room))
    contact = replace(
        home.devices[0],
        id="win9",
        name="Casement",
        kind="contact",
        room_id=room_id,
        drives_id=None,
        quantities=(),
        power="battery",
        retired_on=None,
        witness_id=None,
    )
    return replace(home, devices=(*home.devices, contact)), room_id


class Ways(unittest.TestCase):
    def test_every_starter_that_is_compared_has_ways_that_can_stand_in_the_home(self) -> None:
        seen = set()
        for home in HOMES:
            for key in COMPARED:
                for place_id, _ in starter_of(key).places(home):
                    ways = ways_at(home, key, place_id)
                    names = [str(way.name) for way in ways]
                    self.assertEqual(len(names), len(set(names)), names)
                    for way in ways:
                        self.assertTrue(way.rules or way.cannot, way.name)
                    seen.add(key)
        self.assertLessEqual(set(COMPARED) - seen, {"blinds"}, "no home of the demo has a blind motor")

    def test_a_contact_is_held_against_the_fall_and_the_fall_against_a_contact(self) -> None:
        home, room_id = with_contact(HOMES[0])
        by_contact = [str(way.name) for way in ways_at(home, "opening", "win9")]
        self.assertEqual(by_contact[:2], ["By contact", "By fall"])
        self.assertEqual([str(way.name) for way in ways_at(home, "drop", room_id)][:2], ["By fall", "By contact"])
        self.assertEqual(target_of(home, "drop", room_id), target_of(home, "opening", "win9"))

    def test_without_a_contact_nothing_tells_when_a_window_was_open(self) -> None:
        home = HOMES[0]
        contacts = {home.device(i).room_id for i, _ in opening_contacts(home)}
        room_id = next(i for i, _ in starter_of("drop").places(home) if i not in contacts)
        with self.assertRaisesRegex(NotKnowable, "No contact tells"):
            target_of(home, "drop", room_id)

    def test_off_or_turned_down_are_both_there_and_neither_undercuts_the_protection_limit(self) -> None:
        home, _ = with_contact(HOMES[0])
        ways = ways_at(home, "opening", "win9")
        steps = [step for way in ways if way.rule for step in way.rule.then]
        zone = home.zone_of_id(next(s for s in steps if isinstance(s, SetLevel)).zone_ids[0])
        off = [s.value_c for s in steps if isinstance(s, SetPoint)]
        self.assertEqual(off, [home.guard_of(zone).low_c])
        levels = {s.level_id for s in steps if isinstance(s, SetLevel)}
        self.assertEqual(levels, {level.id for level in home.levels if level.is_saving})

    def test_the_wait_of_the_sensor_stands_beside_that_of_the_rule(self) -> None:
        zone_id = WITH_PEOPLE.zones[0].id
        waits = {str(way.name): way.rule.for_s for way in ways_at(WITH_PEOPLE, "idle", zone_id) if way.rule}
        self.assertEqual(waits["The sensor's own wait alone"], 0)
        self.assertGreater(max(waits.values()), 0)

    def test_a_place_that_is_none_is_refused(self) -> None:
        for key, place in (("leak", "nowhere"), ("nothing", "nowhere")):
            with self.subTest(key), self.assertRaises(HomeError):
                ways_at(HOMES[0], key, place)

    def test_ways_are_rules_that_could_be_kept(self) -> None:
        home, _ = with_contact(HOMES[0])
        for way in ways_at(home, "opening", "win9"):
            if way.rule is not None:
                kept = replace(way.home, rules=(replace(way.rule, id="kept"),))
                wrong = [f for f in rule_findings(kept) if f.severity == "danger"]
                self.assertEqual(wrong, [], way.name)


class Needs(unittest.TestCase):
    def test_batteries_internet_and_people_are_counted(self) -> None:
        home, _ = with_contact(HOMES[0])
        far = replace(
            home, devices=tuple(replace(d, works_without_internet=False) if d.id == "win9" else d for d in home.devices)
        )
        contact, fall = ways_at(far, "opening", "win9")[:2]
        needs = way_needs(far, contact.rules)
        self.assertEqual(needs.by_internet, ("Casement",))
        self.assertIn("win9", {d.id for d in needs.devices})
        self.assertNotIn("win9", {d.id for d in way_needs(far, fall.rules).devices})
        self.assertEqual(needs.batteries, sum(d.power in ("battery", "mains_and_battery") for d in needs.devices))
        self.assertFalse(needs.needs_somebody)

    def test_what_only_tells_needs_somebody_who_comes(self) -> None:
        sail = demo_home("sail-loft")
        tell, shut = ways_at(sail, "leak", starter_of("leak").places(sail)[0][0])[:2]
        self.assertTrue(way_needs(tell.home, tell.rules).needs_somebody)
        self.assertFalse(way_needs(shut.home, shut.rules).needs_somebody)
        self.assertIn("water_valve", {d.kind for d in way_needs(shut.home, shut.rules).devices})

    def test_people_are_told_by_their_witnesses_and_a_room_by_what_measures_in_it(self) -> None:
        named = {i for p in WITH_PEOPLE.people for w in p.witnesses for i in w.device_ids}
        told = devices_of(WITH_PEOPLE, Signal(quantity="is_home"))
        self.assertEqual({d.id for d in told}, {d.id for d in WITH_PEOPLE.devices} & named)
        for home in HOMES:
            outdoor = devices_of(home, Signal(quantity="absolute_humidity"))
            self.assertTrue(all({"outdoor_humidity", "outdoor_temperature"} & set(d.measures) for d in outdoor))


class Targets(unittest.TestCase):
    def test_every_target_is_told_in_words_and_held_for_a_while(self) -> None:
        for home in HOMES:
            for key in COMPARED:
                for place_id, _ in starter_of(key).places(home):
                    try:
                        target = target_of(home, key, place_id)
                    except NotKnowable:
                        continue
                    self.assertGreater(len(target.words), 8)
                    self.assertGreater(target.least_s, 0)
                    self.assertTrue(target.watch)

    def test_only_starters_that_have_another_way_are_compared(self) -> None:
        keys = {starter.key for starter in STARTERS}
        several = {s.key for s in STARTERS if len(s.strategies) > 1}
        self.assertTrue(several <= set(COMPARED) <= keys)


if __name__ == "__main__":
    unittest.main()
