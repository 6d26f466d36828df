"""Warm on arrival: absences, distances and usual hours by hand; rooms against plain small steps of the same balance."""

import unittest

import numpy as np

from warmeter.core.presence.absences import Absence, absences_of, nearest_m, usual_arrival_min, within_distance
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN
from warmeter.core.warmup.prediction import HeatingStretch, RoomModel
from warmeter.core.warmup.warm_arrival import DISTANCES_M, ArrivalRoom, WarmArrival, early_by_clock, warm_arrival

MONDAY = parse_utc("2026-01-12T00:00:00Z")
RC = RoomRc(air_out_w_k=30.0, air_fabric_w_k=160.0, fabric_out_w_k=20.0, air_j_k=5e5, fabric_j_k=4e6)
FULL_W, OUTDOOR_C, GAIN_W, WARM_C, AWAY_C, BAND = 2200.0, 3.0, 60.0, 20.0, 15.0, 0.5
DAYS, M_PER_MIN = 7, 500.0
MINUTES = MONDAY + np.arange(DAYS * 1440, dtype=np.int64) * 60_000
LONDON = LocalClock("Europe/London")
LEAVE, BACK = 480, 1020


def room() -> ArrivalRoom:
    control = OnOff(full_heat_w=FULL_W, band_k=0.4, min_on_steps=1, min_off_steps=1)
    model = RoomModel(
        step=compile_rooms([RC], FULL_W, 60.0), gain_w=np.array([GAIN_W]), sun_m2=np.zeros(1), control=control
    )
    stretch = HeatingStretch(
        start_ms=MONDAY,
        outdoor_c=np.full(MINUTES.size + 1, OUTDOOR_C),
        offsets_k=np.zeros(1),
        certain=MINUTES.size,
        clear_sky_w_m2=np.zeros(MINUTES.size),
        start_c=np.full((1, 3), WARM_C),
    )
    warm = np.full(MINUTES.size, WARM_C)
    return ArrivalRoom(
        model=model, stretch=stretch, warm_c=warm, target_c=WARM_C, away_c=AWAY_C, price=np.full(MINUTES.size, 0.3)
    )


def office_days() -> list[Absence]:
    """Return six days out from eight to five, a quarter of an hour later each day."""
    return [Absence(left=d * 1440 + LEAVE, came=d * 1440 + BACK + 15 * d) for d in range(6)]


def driving_home(absences: list[Absence], far_m: float) -> np.ndarray:
    """Return the distance of one telephone that goes and comes straight, at thirty kilometres an hour."""
    metres = np.zeros(MINUTES.size)
    for a in absences:
        minute = np.arange(a.left, a.came)
        metres[a.left : a.came] = np.minimum(far_m, M_PER_MIN * np.minimum(minute - a.left, a.came - minute))
    return metres


def plain(asked: np.ndarray) -> tuple[np.ndarray, float]:
    """Return the air temperature at each minute's begin and the heat in kWh, by small steps of five seconds."""
    air = fabric = WARM_C
    found, heat_j, dt = np.empty(asked.size + 1), 0.0, 5.0
    found[0] = air
    for minute, setpoint in enumerate(asked):
        heat = FULL_W * min(max(0.5 + (setpoint - air) / BAND, 0.0), 1.0)
        for _ in range(12):
            into_air = RC.air_out_w_k * (OUTDOOR_C - air) + RC.air_fabric_w_k * (fabric - air) + heat + GAIN_W
            into_fabric = RC.air_fabric_w_k * (air - fabric) + RC.fabric_out_w_k * (OUTDOOR_C - fabric)
            air += dt * into_air / RC.air_j_k
            fabric += dt * into_fabric / RC.fabric_j_k
        heat_j += heat * 60
        found[minute + 1] = air
    return found, heat_j / 3.6e6


class Arrivals(unittest.TestCase):
    found: WarmArrival
    absences: list[Absence]
    nearest: np.ndarray

    @classmethod
    def setUpClass(cls) -> None:
        cls.absences = office_days()
        cls.nearest = driving_home(cls.absences, 30_000.0)
        nowhere = np.zeros(MINUTES.size, dtype=bool)
        cls.found = warm_arrival(room(), cls.absences, cls.nearest, nowhere, MINUTES, LONDON, 0.9)

    def asked(self, early_min: float) -> np.ndarray:
        asked = np.full(MINUTES.size, WARM_C)
        for a in self.absences:
            asked[a.left : max(a.left, a.came - round(early_min))] = AWAY_C
        return asked

    def test_heat_and_shortfall_on_arrival_are_those_of_plain_small_steps(self) -> None:
        for way, early_min in ((self.found.ways[0], 1e9), (self.found.ways[-1], 0.0)):
            with self.subTest(way.key):
                asked = np.full(MINUTES.size, WARM_C) if way.key == "kept" else self.asked(early_min)
                air, kwh = plain(asked)
                self.assertAlmostEqual(way.heat_kwh_week.value, kwh, delta=0.01 * kwh)
                came = [a.came for a in self.absences]
                short = np.maximum(WARM_C - air[came], 0).mean()
                self.assertAlmostEqual(way.short_k, short, delta=0.1)
                assert way.money_week is not None
                self.assertAlmostEqual(way.money_week.value, 0.3 * way.heat_kwh_week.value, places=6)

    def test_the_proposed_distance_is_the_nearest_that_is_early_enough(self) -> None:
        proposed = self.found.proposed
        assert proposed is not None and proposed.distance_m is not None
        before = [m for m in DISTANCES_M if m < proposed.distance_m][-1]
        for metres, is_warm in ((proposed.distance_m, True), (before, False)):
            air, _ = plain(self.asked(metres / M_PER_MIN))
            warm = [air[a.came + 10] >= WARM_C - 1.0 for a in self.absences]
            self.assertEqual(np.mean(warm) >= 0.9, is_warm, metres)

    def test_the_farther_the_warmer_and_the_dearer(self) -> None:
        shares = [way.warm_share for way in self.found.distances]
        heats = [way.heat_kwh_week.value for way in self.found.distances]
        hours = [way.early_h_week for way in self.found.distances]
        for row in (shares, heats, hours):
            self.assertEqual(row, sorted(row))
        # Six ways home of 20 km at 30 km/h.
        way = next(w for w in self.found.distances if w.distance_m == 20_000.0)
        self.assertAlmostEqual(way.early_h_week, 6 * 40 / 60, delta=0.2)

    def test_the_best_is_early_enough_and_takes_the_least_heat(self) -> None:
        best = self.found.best
        assert best is not None
        self.assertGreaterEqual(best.warm_share, 0.9)
        enough = [w.heat_kwh_week.value for w in self.found.ways if w.warm_share >= 0.9]
        self.assertEqual(best.heat_kwh_week.value, min(enough))
        self.assertEqual(self.found.ways[0].warm_share, 1.0)

    def test_a_way_home_shorter_than_the_warm_up_is_early_enough_from_nowhere(self) -> None:
        near = driving_home(self.absences, 1500.0)
        nowhere = np.zeros(MINUTES.size, dtype=bool)
        found = warm_arrival(room(), self.absences, near, nowhere, MINUTES, LONDON, 0.9)
        self.assertIsNone(found.proposed)
        self.assertTrue(all(way.distance_m is None or way.distance_m < 1500.0 for way in found.distances))

    def test_few_arrivals_hold_no_proposal_and_their_share_has_a_wide_range(self) -> None:
        few = self.absences[:3]
        nowhere = np.zeros(MINUTES.size, dtype=bool)
        found = warm_arrival(room(), few, driving_home(few, 30_000.0), nowhere, MINUTES, LONDON, 0.9)
        self.assertIsNone(found.proposed)
        self.assertIsNone(found.best)
        # Wilson: of three out of three, 1/(1 + z²/3) at least.
        self.assertAlmostEqual(found.ways[0].warm_range[0], 1 / (1 + 1.96**2 / 3))

    def test_without_a_distance_the_clock_is_left(self) -> None:
        nothing = np.full(MINUTES.size, np.nan)
        nowhere = np.zeros(MINUTES.size, dtype=bool)
        found = warm_arrival(room(), self.absences, nothing, nowhere, MINUTES, LONDON, 0.9)
        self.assertEqual([w.key for w in found.ways], ["kept", "clock", "arrival"])
        self.assertEqual(found.distances, ())


class Pieces(unittest.TestCase):
    def test_absences_have_a_least_length_and_an_end_and_what_is_not_known_goes_on(self) -> None:
        state = np.full(600, TRUE, dtype=np.int8)
        state[50:80], state[100:160], state[160:200], state[550:] = FALSE, FALSE, UNKNOWN, FALSE
        self.assertEqual(absences_of(state, 45), [Absence(left=100, came=200)])
        self.assertEqual(absences_of(state, 30), [Absence(left=50, came=80), Absence(left=100, came=200)])

    def test_the_nearest_telephone_counts_as_long_as_its_word_is_fresh(self) -> None:
        minutes = MONDAY + np.arange(120, dtype=np.int64) * 60_000
        one = MONDAY + np.array([0, 600_000]), np.array([9000.0, 4000.0])
        other = MONDAY + np.array([1_200_000]), np.array([700.0])
        found = nearest_m([one, other], minutes)
        self.assertEqual([found[0], found[9], found[10], found[19], found[20]], [9000, 9000, 4000, 4000, 700])
        self.assertEqual(found[60], 700.0)
        self.assertTrue(np.isnan(found[61]))

    def test_only_who_was_beyond_it_has_come_back_within_it(self) -> None:
        absence = Absence(left=0, came=6)
        nearest = np.array([500.0, 900.0, 2500.0, np.nan, 1500.0, 400.0])
        self.assertEqual(within_distance(absence, nearest, 1000.0).tolist(), [False] * 5 + [True])
        self.assertEqual(within_distance(absence, nearest, 3000.0).tolist(), [False] * 6)
        self.assertEqual(within_distance(absence, nearest, 2000.0).tolist(), [False] * 4 + [True, True])

    def test_the_usual_hour_has_so_many_arrivals_after_it(self) -> None:
        absences = [
            Absence(left=d * 1440 + 480, came=d * 1440 + m) for d, m in enumerate((1000, 1010, 1020, 1030, 1040))
        ]
        found = usual_arrival_min(absences, MINUTES, LONDON, 0.75)
        self.assertEqual(found, dict.fromkeys(range(7), 1010))
        self.assertEqual(usual_arrival_min(absences[:3], MINUTES, LONDON, 0.75), {})

    def test_whoever_comes_home_after_midnight_makes_no_early_morning_the_usual_hour(self) -> None:
        evenings = [Absence(left=d * 1440 + 1080, came=(d + 1) * 1440 + 30) for d in range(4)]
        usual = usual_arrival_min(evenings, MINUTES, LONDON, 0.9)
        self.assertEqual(usual[0], 1470)
        early = early_by_clock(usual, 60.0, MINUTES, LONDON)
        # From half past eleven at night until four, and not before.
        self.assertEqual(np.flatnonzero(early[1440:2880]).tolist(), [*range(240), *range(1410, 1440)])


if __name__ == "__main__":
    unittest.main()
