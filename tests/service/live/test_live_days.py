"""Homes followed live: windows, leaks at night, finished appliances, lost commands, restarts, clock changes."""

import unittest
from dataclasses import replace
from datetime import timedelta

from tests.served import fresh_app
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.day_plans import PlannedDay, PlannedPart, WantedRun
from warmeter.core.home.devices import Calibration
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping, MessageMapping
from warmeter.core.home.water import SelfTest
from warmeter.core.live.command_run import CommandRun
from warmeter.core.timegrid import from_ms, parse_utc
from warmeter.core.timetable.day import blocks_between, warm_up_claim
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S
from warmeter.service.app import Person
from warmeter.service.homes.demo import demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.live.answering import answer_alert
from warmeter.service.live.commanding import released
from warmeter.service.live.latest_values import latest_values
from warmeter.service.live.played_home import PlayedHome
from warmeter.service.live.self_test import begin_test, running_tests, write_test
from warmeter.service.live.setting_up import demo_linked, linked
from warmeter.service.live.stand_in import take_up
from warmeter.service.rules.rule_signals import track_of
from warmeter.service.timetable.manual_overrides import changes_of
from warmeter.simulators.live_devices import LiveDevices
from warmeter.simulators.live_house import LiveHouse
from warmeter.store.live_alerts import KeptAlert
from warmeter.store.live_commands import KeptCommand, KeptFiring

NOON, NIGHT = parse_utc("2026-01-20T12:00:00Z"), parse_utc("2026-01-20T23:30:00Z")
NOON_DATE = from_ms(NOON).date()
H = 3600


def sending(home: Home) -> Home:
    """Return a home that is linked and sends."""
    return linked(replace(home, link=replace(home.link, mode="send")))


class LiveDays(unittest.TestCase):
    def played(self, home: Home, start_ms: int = NOON, seed: int = 3) -> PlayedHome:
        app = fresh_app()
        create_home(app, home, Person("Ada"), "made")
        return PlayedHome(app, home, start_ms, seed)

    def commands(self, at: PlayedHome, target_id: str) -> list[KeptCommand]:
        return [c for c in reversed(at.app.live_commands.last(at.home_id, 500)) if c.run.target_id == target_id]

    def alerts(self, at: PlayedHome, cause: str) -> list[KeptAlert]:
        return [a for a in at.app.live_alerts.last(at.home_id, 500) if a.cause.startswith(cause)]

    def told(self, at: PlayedHome, alert: KeptAlert) -> list[int]:
        """Return the minutes after noon at which a group was told on the page."""
        rows = at.app.live_alerts.tellings([alert.id])
        return [(t.at_ms - at.start_ms) // MS_PER_MIN for t in rows if t.channel_id == "page" and t.state == "told"]

    def test_an_open_window_rests_its_heater_and_gives_it_back(self) -> None:
        home = demo_home("weir-cottage")
        parlour = next(zone for zone in home.zones if zone.id == "wc-z-parlour")
        rule = home.rule("wc-r06")
        at = self.played(replace(sending(home), rules=(rule,)))
        at.live(10 * 60)
        before = at.look().zones[home.zones.index(parlour)].now
        at.devices.faults["open"].add("wc-c-parlour")
        at.live(rule.for_s + 120, 30)
        during = at.look().zones[home.zones.index(parlour)].now
        self.assertEqual((during.claim.kind, during.claim.rule), ("window_lock", rule.id))
        self.assertLess(during.value, before.value)
        at.devices.faults["open"].clear()
        at.live(15 * 60, 30)
        after = at.look().zones[home.zones.index(parlour)].now
        self.assertEqual((after.value, after.claim.kind), (before.value, before.claim.kind))
        fired = at.fired_live()[rule.id]
        self.assertEqual([each.why for each in fired], ["when"])
        self.assertEqual(at.fired_replayed()[rule.id], fired)

    def test_a_thermometers_calibration_sets_right_what_is_shown_and_a_contact_in_it_still_says_open(self) -> None:
        home = demo_home("weir-cottage")
        contact = home.device("wc-c-parlour")
        both = replace(contact, quantities=("is_open", "room_temperature"), calibrations=(Calibration(offset=-0.8),))
        devices = tuple(both if d.id == both.id else d for d in home.devices)
        at = self.played(replace(sending(replace(home, devices=devices)), rules=()))
        at.devices.faults["open"].add(both.id)
        at.live(10 * 60)
        of = {s.record.quantity: s.id for s in at.app.readings.series(at.home_id) if s.record.subject == both.id}
        newest, shown = at.app.live_readings.latest(at.home_id), latest_values(at.app, at.runner.home).values
        for quantity, offset in (("room_temperature", -0.8), ("is_open", 0.0)):
            raw = newest[of[quantity]].value
            self.assertAlmostEqual(shown[quantity, both.id].value, raw + offset, msg=quantity)
        self.assertEqual(newest[of["is_open"]].value, 1.0)
        track = track_of(
            at.app, at.runner.home, Signal(quantity="is_open", subject_id=both.id), NOON, NOON + MS_PER_DAY
        )
        self.assertEqual(set(track.value.tolist()), {1.0})

    def test_a_heater_behind_a_relay_is_switched_by_its_rooms_temperature(self) -> None:
        at = self.played(replace(sending(demo_home("weir-cottage")), rules=()))
        at.live(6 * H, 120)
        found = self.commands(at, "wc-panel-parlour")
        self.assertTrue(found)
        self.assertTrue(all(c.does == "switch" and c.run.state in ("confirmed", "overtaken") for c in found))
        asked = at.look().zones[0].now.value
        self.assertAlmostEqual(at.house.room_c("wc-parlour"), asked, delta=1.0)

    def test_a_finished_appliance_is_told_until_somebody_has_emptied_it(self) -> None:
        at = self.played(demo_linked(demo_home("sail-loft")))
        at.live(5 * 60)
        at.devices.faults["dead"].add("ap-washer")
        for minute in range(140):
            power = "2000" if minute < 30 else "3"
            at.say("homes/sail-loft/ap-washer/electric_w", power)
            at.play(30)
            at.say("homes/sail-loft/ap-washer/electric_w", power)
            at.play(30)
            at.look()
        (alert,) = self.alerts(at, "rule:sl-r07")
        tellings = at.app.live_alerts.tellings([alert.id])
        begun = alert.begun_ms
        everybody = [t.at_ms for t in tellings if t.group_id != "gr-owner" and t.channel_id == "page"]
        self.assertEqual([(t - begun) // MS_PER_MIN for t in everybody][:4], [0, 20, 40, 60])
        owner = [t.at_ms for t in tellings if t.group_id == "gr-owner" and t.channel_id == "page"]
        self.assertEqual((owner[0] - begun) // MS_PER_MIN, 50)
        home, revision = at.app.homes.load(at.home_id)
        answer_alert(at.app, home, revision, alert.id, kind="done", by="Ada")
        count = len(tellings)
        at.live(2 * H, 300)
        self.assertEqual(len(at.app.live_alerts.tellings([alert.id])), count)
        self.assertIsNotNone(self.alerts(at, "rule:sl-r07")[0].closed_ms)

    def test_a_leak_at_night_goes_through_quiet_hours_and_is_answered(self) -> None:
        at = self.played(demo_linked(demo_home("sail-loft")), NIGHT)
        at.live(5 * 60)
        at.devices.faults["wet"].add("dv-leak")
        at.live(12 * 60, 15)
        (shut,) = self.commands(at, "dv-water")
        self.assertEqual((shut.run.value, shut.run.state, shut.kind), (0.0, "confirmed", "safety"))
        (alert,) = self.alerts(at, "rule:sl-r01")
        self.assertTrue(self.told(at, alert))
        home, revision = at.app.homes.load(at.home_id)
        answer_alert(at.app, home, revision, alert.id, kind="done", by="Ben")
        told = len(at.app.live_alerts.tellings([alert.id]))
        at.devices.faults["wet"].clear()
        at.live(H, 60)
        self.assertEqual(len(at.app.live_alerts.tellings([alert.id])), told)
        # A person opens the water again, nobody else.
        self.assertEqual(len(self.commands(at, "dv-water")), 1)
        (said,) = at.app.live_alerts.answers([alert.id])[alert.id]
        self.assertEqual((said.by, said.kind), ("Ben", "done"))

    def test_water_that_was_shut_stays_shut_when_its_rule_is_edited_or_removed(self) -> None:
        home = sending(demo_home("sail-loft"))
        rule = home.rule("sl-r01")
        firing = KeptFiring(
            rule_id=rule.id, at_ms=NOON, end_ms=NOON + H, why="edited", seen_ms=NOON, found={"dv-water": 1.0},
            targets=("dv-water",),
        )  # fmt: skip
        run = CommandRun(
            mapping_id="m", target_id="dv-water", value=0.0, reason="Water", made_ms=NOON, state="confirmed"
        )
        shut = KeptCommand(id=1, does="switch", kind="safety", at_ms=NOON, run=run)
        for rules, why in ((home.rules, "edited"), ((), "edited"), (home.rules, "when")):
            with self.subTest(rules=len(rules), why=why):
                kept = (replace(firing, why=why),)
                self.assertEqual(released(replace(home, rules=rules), (), {("dv-water", "switch"): shut}, kept), [])

    def test_an_alarm_path_is_tested_and_its_seconds_written_down(self) -> None:
        at = self.played(demo_linked(demo_home("sail-loft")), NIGHT)
        at.live(5 * 60)
        home, revision = at.app.homes.load(at.home_id)
        chain = next(c for c in home.safety_chains if "dv-leak" in c.device_ids)
        begin_test(at.app, home, revision, chain.id)
        self.assertIsNone(running_tests(at.app, home)[chain.id].timing.felt_ms)
        at.devices.faults["wet"].add("dv-leak")
        at.live(90, 5)
        running = running_tests(at.app, home)[chain.id]
        self.assertTrue(running.timing.is_whole, running.timing)
        write_test(at.app, home, revision, chain.id, Person("Ada"))
        home, _ = at.app.homes.load(at.home_id)
        test = next(c for c in home.safety_chains if c.id == chain.id).tests[-1]
        # The rule waits 10 s, and somebody looks every 5 s.
        assert test.told_s is not None
        self.assertTrue(10 <= test.told_s <= 20, test)
        self.assertEqual(test.failed, "")
        self.assertEqual(running_tests(at.app, home), {})

    def test_an_alarm_path_that_was_not_tested_for_a_week_is_reminded_of_until_it_is(self) -> None:
        home = replace(demo_linked(demo_home("sail-loft")), rules=())
        chain = home.safety_chains[0]
        tested = replace(chain, tests=(SelfTest(on=NOON_DATE - timedelta(days=6), told_s=12.0),))
        at = self.played(replace(home, safety_chains=(tested,)), NIGHT)
        at.live(9 * H, 1800)
        self.assertEqual(self.alerts(at, "test:"), [])
        # On the seventh day after, at ten by the wall.
        at.live(2 * H, 1800)
        (alert,) = self.alerts(at, "test:")
        self.assertEqual(alert.begun_ms, parse_utc("2026-01-21T10:00:00Z"))
        self.assertIn("last tested on 14 Jan 2026", alert.text)
        home, revision = at.app.homes.load(at.home_id)
        begin_test(at.app, home, revision, chain.id)
        write_test(at.app, home, revision, chain.id, Person("Ada"))
        at.live(60)
        (alert,) = self.alerts(at, "test:")
        self.assertIsNotNone(alert.ended_ms)

    def test_a_lost_command_by_infrared_is_found_by_its_witness(self) -> None:
        home = replace(sending(demo_home("terrace-nine")), rules=())
        # At five by the wall the evening begins, and the rooms are two kelvins too cold.
        at = self.played(home, parse_utc("2026-01-20T15:55:00Z"))
        at.devices.faults["deaf"] |= {"tn-ir-living"}
        at.house.heaters["tn-split-living"].setpoint_c = 10.0
        at.live(30 * 60, 20)
        lost = [c for c in self.commands(at, "tn-split-living") if c.run.state == "lost"]
        self.assertEqual([len(c.run.sent_ms) for c in lost[:1]], [3])
        (alert,) = self.alerts(at, "command:tn-split-living")
        self.assertIn("nothing shows that it obeyed", alert.text)
        heard = [c for c in self.commands(at, "tn-split-bedroom") if c.run.state == "confirmed"]
        self.assertTrue(heard)

    def test_a_unit_cools_on_a_hot_day_and_heats_on_a_cold_one(self) -> None:
        home = replace(sending(demo_home("terrace-nine")), rules=())
        at = self.played(home, parse_utc("2026-07-20T17:00:00Z"))
        at.house.state[:] = 30.0
        at.live(2 * H, 120)
        (cooled,) = self.commands(at, "tn-split-living")
        self.assertEqual((cooled.does, cooled.run.state, cooled.run.value), ("cooling", "confirmed", 25.5))
        self.assertLess(at.house.room_c("tn-living"), 27.0)
        at.house.state[:] = 15.0
        at.live(600, 120)
        last = self.commands(at, "tn-split-living")[-1]
        self.assertEqual((last.does, last.run.value), ("setpoint", 20.5))

    def test_the_limit_that_a_unit_cools_to_is_no_change_by_hand(self) -> None:
        home = replace(sending(demo_home("terrace-nine")), rules=())
        told = (
            MessageMapping(
                id="told",
                topic="homes/terrace-nine/tn-ir-living/setpoint",
                quantity="setpoint",
                subject_id="tn-ir-living",
                unit="°C",
            ),
        )
        by_word = tuple(
            replace(m, confirm_quantity="setpoint", witness_from=None) if m.target_id == "tn-ir-living" else m
            for m in home.command_mappings
        )
        wide = tuple(replace(zone, hand=replace(zone.hand, low_c=15.0, high_c=28.0)) for zone in home.zones)
        home = replace(home, zones=wide, message_mappings=(*home.message_mappings, *told), command_mappings=by_word)
        at = self.played(home, parse_utc("2026-07-20T17:00:00Z"))
        for room_c, setpoint in ((15.0, "20.5"), (30.0, "25.5"), (30.0, "25.5")):
            at.house.state[:] = room_c
            at.live(8 * 60, 60)
            at.say("homes/terrace-nine/tn-ir-living/setpoint", setpoint)
            at.look()
        self.assertEqual([c.run.state for c in self.commands(at, "tn-split-living")], ["confirmed", "confirmed"])
        self.assertEqual(changes_of(at.app, at.home_id), [])

    def test_a_setpoint_turned_at_the_valve_holds_for_the_zones_longest_length(self) -> None:
        base = replace(sending(demo_home("sail-loft")), rules=())
        zone = next(zone for zone in base.zones if zone.id == "zo-bedroom")
        short = replace(zone, hand=replace(zone.hand, longest_h=2.0))
        at = self.played(replace(base, zones=tuple(short if z is zone else z for z in base.zones)))
        at.live(20 * 60, 30)
        (before,) = self.commands(at, "he-bedroom")
        self.assertEqual(before.run.state, "confirmed")
        valve = next(d.id for d in base.devices if d.drives_id == "he-bedroom")
        at.devices.states[valve].setpoint_c = 19.5
        at.live(10 * 60, 30)
        now = at.look().zones[base.zones.index(zone)].now
        self.assertEqual((now.value, now.claim.kind, now.claim.by), (19.5, "by_hand", "at the device"))
        self.assertEqual(at.devices.states[valve].setpoint_c, 19.5)
        at.live(2 * H, 60)
        last = self.commands(at, "he-bedroom")[-1]
        self.assertEqual((last.run.value, last.run.state), (before.run.value, "confirmed"))
        self.assertEqual(at.devices.states[valve].setpoint_c, before.run.value)
        self.assertEqual(len([1 for _, c in changes_of(at.app, at.home_id) if c.zone_id == zone.id]), 1)

    def test_valves_that_begin_anew_together_are_asked_again_and_turned_by_nobody(self) -> None:
        base = replace(sending(demo_home("sail-loft")), rules=())
        at = self.played(base)
        at.live(20 * 60, 30)
        valves = {d.id: d.drives_id for d in base.devices if d.drives_id and d.kind == "radiator_valve"}
        asked = {valve: at.devices.states[valve].setpoint_c for valve in valves}
        for valve in valves:
            at.devices.states[valve].setpoint_c = 21.5
        at.live(30 * 60, 30)
        self.assertEqual(changes_of(at.app, at.home_id), [])
        self.assertEqual({valve: at.devices.states[valve].setpoint_c for valve in valves}, asked)

    def test_devices_that_are_played_again_go_on_from_where_they_were(self) -> None:
        at = self.played(replace(sending(demo_home("sail-loft")), rules=()))
        at.live(2 * H, 120)
        before = at.devices
        at.devices = LiveDevices(LiveHouse(at.runner.home, at.clock.now_ms))
        take_up(at.app, at.runner.home, at.devices)
        for room in at.runner.home.rooms:
            self.assertAlmostEqual(at.devices.house.room_c(room.id), before.house.room_c(room.id), delta=1.0)
        at.live(20 * 60, 60)
        self.assertEqual(changes_of(at.app, at.home_id), [])

    def test_a_power_cut_is_one_alert_and_not_one_for_each_device(self) -> None:
        at = self.played(replace(sending(demo_home("sail-loft")), rules=()))
        at.live(40 * 60, 60)
        at.devices.faults["dead"] |= {device.id for device in at.house.home.devices} | {"home"}
        at.live(25 * 60, 60)
        (alert,) = self.alerts(at, "quiet:")
        self.assertEqual(alert.cause, "quiet:together")
        self.assertIn("perhaps the power", alert.text)
        at.restart()
        at.live(5 * 60, 60)
        self.assertEqual(len(self.alerts(at, "quiet:")), 1)
        at.devices.faults["dead"].clear()
        at.live(10 * 60, 60)
        (alert,) = self.alerts(at, "quiet:")
        self.assertIsNotNone(alert.ended_ms)

    def test_a_link_that_is_down_is_one_alert_within_a_minute_or_two(self) -> None:
        at = self.played(replace(sending(demo_home("sail-loft")), rules=()))
        at.live(40 * 60, 60)
        at.link.is_connected = False
        at.devices.faults["dead"] |= {device.id for device in at.house.home.devices}
        at.live(2 * 60, 30)
        (alert,) = self.alerts(at, "link")
        self.assertEqual(alert.text, "The link to the devices is down: it was cut")
        at.live(30 * 60, 60)
        self.assertEqual(self.alerts(at, "quiet:"), [])
        at.link.is_connected = True
        at.devices.faults["dead"].clear()
        at.live(2 * 60, 60)
        (alert,) = self.alerts(at, "link")
        self.assertIsNotNone(alert.ended_ms)

    def damp(self, at: PlayedHome, value: str, minutes: int) -> None:
        for _ in range(2 * minutes):
            at.say(f"homes/{at.home_id}/wc-s-tub/relative_humidity", value)
            at.play(30)
            at.look()

    def test_a_restart_while_something_is_to_be_put_back(self) -> None:
        home = sending(demo_home("weir-cottage"))
        at = self.played(replace(home, rules=(home.rule("wc-r10"),)))
        at.devices.faults["dead"].add("wc-s-tub")
        self.damp(at, "55", 5)
        self.damp(at, "85", 8)
        at.restart()
        self.damp(at, "85", 3)
        on = [c for c in self.commands(at, "wc-fan") if c.does == "switch"]
        self.assertEqual([(c.run.value, len(c.run.sent_ms)) for c in on], [(1.0, 1)])
        # Killed before it is over, and nobody looks as it comes to an end.
        for _ in range(60):
            at.say(f"homes/{at.home_id}/wc-s-tub/relative_humidity", "45")
            at.play(30)
        at.restart()
        self.damp(at, "45", 2)
        found = self.commands(at, "wc-fan")
        self.assertEqual([c.run.value for c in found], [1.0, 0.0])
        self.assertEqual((found[-1].kind, found[-1].run.state), ("base", "confirmed"))
        self.assertFalse(at.devices.states["wc-fan"].is_on)

    def test_a_toggle_is_never_pressed_twice(self) -> None:
        home = sending(demo_home("weir-cottage"))
        others = tuple(c for c in home.command_mappings if c.target_id != "wc-fan")
        toggle = CommandMapping(
            id="toggle",
            target_id="wc-fan",
            does="switch",
            topic="homes/weir-cottage/fan/press",
            template="press",
            is_toggle=True,
            confirm_quantity="is_on",
            within_s=10,
        )
        at = self.played(replace(home, rules=(home.rule("wc-r10"),), command_mappings=(*others, toggle)))
        at.devices.faults["dead"].add("wc-s-tub")
        self.damp(at, "55", 2)
        self.damp(at, "85", 7)
        at.restart()
        self.damp(at, "85", 10)
        self.assertEqual([t for t, _ in at.link.published].count("homes/weir-cottage/fan/press"), 1)

    def test_only_said_and_then_sent(self) -> None:
        home = sending(demo_home("sail-loft"))
        at = self.played(replace(home, rules=(), link=replace(home.link, mode="say")))
        at.live(5 * 60)
        self.assertEqual(at.link.published, [])
        self.assertEqual({c.run.state for c in at.app.live_commands.last(at.home_id, 99)}, {"said"})

    def test_steps_of_the_timetable_follow_the_wall_clock_over_a_change(self) -> None:
        # Clocks go forward at 01:00 UTC: 08:00 by the wall, when it is In use on Sundays, is 07:00 UTC from then on.
        home = replace(sending(demo_home("sail-loft")), rules=())
        at = self.played(home, parse_utc("2026-03-28T23:50:00Z"))
        at.live(7 * H + 1200, 300)
        kitchen = [c for c in self.commands(at, "he-kitchen") if c.run.value > 19]
        self.assertEqual(len(kitchen), 1)
        due = parse_utc("2026-03-29T07:00:00Z")
        self.assertTrue(due <= kitchen[0].at_ms <= due + 5 * MS_PER_MIN)

    def test_a_zone_is_warmed_up_by_its_lead_time(self) -> None:
        # The kitchen is In use from half past five in the afternoon; it is given forty minutes.
        home = replace(sending(demo_home("sail-loft")), rules=())
        at = self.played(home, parse_utc("2026-01-20T16:30:00Z"))
        at.live(60)
        due = parse_utc("2026-01-20T17:30:00Z")
        zone = next(z for z in home.zones if z.id == "zo-kitchen")
        block = next(
            b for b in blocks_between(home, zone, at.app.clock(home), at.start_ms, due + 1) if b.from_ms == due
        )
        at.runner.hourly.warm_ups = {zone.id: (warm_up_claim(block, 40.0),)}
        at.live(H - 120, 60)
        (warm,) = [c for c in self.commands(at, "he-kitchen") if c.run.value == block.setpoint_c]
        self.assertTrue(0 <= warm.at_ms - (due - 40 * MS_PER_MIN) <= 2 * MS_PER_MIN)
        self.assertIn("warm-up", warm.run.reason)

    def test_a_device_gone_quiet_is_told_and_a_restart_makes_nothing_fresh(self) -> None:
        at = self.played(replace(sending(demo_home("sail-loft")), rules=()))
        at.live(40 * 60, 60)
        at.devices.faults["dead"].add("dv-bedroom")
        at.live(H, 120)
        (alert,) = self.alerts(at, "quiet:dv-bedroom")
        self.assertIn("gone quiet", alert.text)
        at.restart()
        at.live(5 * 60)
        self.assertEqual([a.id for a in self.alerts(at, "quiet:dv-bedroom") if a.closed_ms is None], [alert.id])

    def test_one_writer_a_home(self) -> None:
        at = self.played(sending(demo_home("terrace-nine")))
        homes, now = at.app.live_homes, at.clock.now_ms
        self.assertTrue(homes.lease(at.home_id, "one", now, now + 10 * MS_PER_S))
        self.assertFalse(homes.lease(at.home_id, "two", now + 5 * MS_PER_S, now + 15 * MS_PER_S))
        self.assertTrue(homes.lease(at.home_id, "one", now + 8 * MS_PER_S, now + 18 * MS_PER_S))
        self.assertTrue(homes.lease(at.home_id, "two", now + 19 * MS_PER_S, now + 29 * MS_PER_S))
        self.assertFalse(homes.lease(at.home_id, "one", now + 20 * MS_PER_S, now + 30 * MS_PER_S))

    def planned(self, *commands: CommandMapping) -> PlayedHome:
        """Return a home whose dishwasher is planned for 12:30 UTC on two days, looked at from noon on."""
        base = demo_home("terrace-nine")
        runs = [WantedRun(id=f"w{k}", appliance_id="tn-dish", on=NOON_DATE + timedelta(days=k)) for k in (0, 1)]
        # Madrid's day begins at 23:00 UTC: 13.5 h later is the 54th quarter of an hour.
        days = [PlannedDay(on=run.on, parts=(PlannedPart(part_id=run.id, slot=54),)) for run in runs]
        home = replace(sending(replace(base, wanted_runs=tuple(runs), planned_days=tuple(days))), rules=())
        return self.played(replace(home, command_mappings=commands))

    def test_a_planned_run_that_nobody_else_can_start_is_told_to_people_at_its_time(self) -> None:
        at = self.planned()
        at.live(29 * 60)
        self.assertEqual(self.alerts(at, "plan:"), [])
        at.live(3 * 60)
        (alert,) = self.alerts(at, "plan:")
        self.assertEqual(alert.text, "Start Dishwasher now: the plan of the day begins it at 13:30")
        self.assertIsNone(alert.closed_ms)
        at.live(30 * 60)
        (alert,) = self.alerts(at, "plan:")
        self.assertIsNotNone(alert.closed_ms)

    def test_a_planned_run_is_started_once_on_each_day_and_not_while_it_runs(self) -> None:
        start = CommandMapping(
            id="start",
            target_id="tn-dish",
            does="switch",
            topic="homes/terrace-nine/tn-dish/do/start",
            confirm_quantity="electric_w",
            witness_from=5.0,
        )
        at = self.planned(start)

        def power(watts: int, minutes: int) -> None:
            for _ in range(minutes):
                at.say("homes/terrace-nine/tn-dish/electric_w", str(watts))
                at.play(60)
                at.look()

        at.devices.faults["dead"].add("tn-dish")
        power(0, 32)
        power(60, 20)
        (first,) = self.commands(at, "tn-dish")
        self.assertEqual((first.kind, first.run.value, first.run.state), ("plan", 1.0, "confirmed"))
        self.assertEqual((first.at_ms - NOON) // MS_PER_MIN, 30)
        at.live(22 * H, 1800)
        # On the next day somebody has started it by hand before; nothing is pressed, and nobody is told to.
        power(60, 120)
        self.assertEqual(len(self.commands(at, "tn-dish")), 1)
        self.assertEqual(self.alerts(at, "plan:"), [])
