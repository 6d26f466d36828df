"""``warmeter promise-agree``: what measuring a room was said to bring, against what it brought, on stand-in houses."""

import argparse
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from datetime import date
from multiprocessing import get_context

import numpy as np

from warmeter.core.home.document import Home, Place
from warmeter.core.home.rooms import Described, Room
from warmeter.core.home.timetables import ChangePoint, every_day
from warmeter.core.home.zones import Level, Zone
from warmeter.core.matters.all_lines import home_matters
from warmeter.core.matters.evidence import ClimateYear, HeatedRoom, HomeEvidence, WeekGap
from warmeter.core.matters.room_heat import fitted_heat, surveyed_heat
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.room_fit import Estimate
from warmeter.simulators.agreement import LOG_DAYS, Family, SurveyedParameters, log_of_run, prior_of_plan, scene_of

CLIMATE = ClimateYear(
    outdoor_c=np.array([-4.0, 0.0, 4.0, 8.0, 12.0, 16.0]),
    share=np.array([0.05, 0.15, 0.2, 0.2, 0.2, 0.2]),
    logged_days=365,
)
WITHIN = 1 / 3


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptPromise:
    """One house: width of the sum before, promised and after [money a year]; whether its fit is fit for use."""

    seed: int
    family: Family
    before: float
    promised: float
    after: float
    is_fit_for_use: bool

    @property
    def is_kept(self) -> bool:
        """Whether the width after lies within a third of what was promised."""
        return self.is_fit_for_use and abs(self.after - self.promised) <= WITHIN * self.promised


def run(options: argparse.Namespace) -> int:
    """Judge so many houses of both families in turn; 1 if fewer than four in five promises were kept."""
    seeds = range(options.first, options.first + options.seeds)
    with ProcessPoolExecutor(max_workers=options.workers, mp_context=get_context("spawn")) as pool:
        found = list(pool.map(kept_promise, seeds))
    for each in found:
        told = "kept" if each.is_kept else "MISSED" if each.is_fit_for_use else "not fit for use"
        print(
            f"{each.family} seed {each.seed}: sum {each.before:.0f} wide, promised {each.promised:.0f}, "
            f"came to {each.after:.0f}: {told}"
        )
    kept = sum(each.is_kept for each in found)
    ratios = [each.after / each.promised for each in found if each.is_fit_for_use]
    print(f"{kept} of {len(found)} kept (asked: 4 of 5); width after over promised, middle {np.median(ratios):.2f}")
    return 0 if kept >= 0.8 * len(found) else 1


def kept_promise(seed: int) -> KeptPromise:
    """Return what a fortnight's log of a stand-in house was said to bring and what it brought; odd seeds are layered."""
    family: Family = "layers" if seed % 2 else "stores"
    scene = scene_of(seed, family)
    parameters: SurveyedParameters = scene.house().parameters
    log = log_of_run(scene.rng, scene.run(), LOG_DAYS)
    prior = prior_of_plan(scene.rng, parameters)
    loss, store = surveyed_heat(prior)
    room = HeatedRoom(
        room_id="room",
        name="Room",
        zone_id="zone",
        loss_w_k=loss,
        store_j_k=store,
        gain_w=prior.gain_w,
        full_heat_w=parameters.full_heat_w,
        is_fitted=False,
        mean_c=19.0,
        lowest_guard_c=10.0,
        gaps=(WeekGap(times_a_week=7, minutes=480, held_c=20.0, low_c=17.0, price_held=0.3, price_reheat=0.3),),
        heat_over_draw=np.ones(CLIMATE.outdoor_c.size),
        price=0.3,
        currency="EUR",
        night_price=0.3,
        morning_price=0.3,
        excess_k=Estimate(value=1.5, low=1.2, high=1.8),
    )
    before = home_matters(_evidence(room))
    promise = next((each.after for each in before.measures if each.offer.key == "log:room"), before.total)
    fit = fit_room(log, prior, full_heat_w=parameters.full_heat_w, plate_w=parameters.full_heat_w)
    loss, store = fitted_heat(fit)
    learnt = replace(room, loss_w_k=loss, store_j_k=store, gain_w=fit.gain_w.value, is_fitted=True)
    return KeptPromise(
        seed=seed,
        family=family,
        before=before.total.width,
        promised=promise.width,
        after=home_matters(_evidence(learnt)).total.width,
        is_fit_for_use=fit.is_fit_for_use,
    )


def _evidence(room: HeatedRoom) -> HomeEvidence:
    home = Home(
        id="home",
        name="Stand-in",
        place=Place(latitude_deg=50.0, longitude_deg=8.0),
        time_zone="Europe/Berlin",
        country="DE",
        currency="EUR",
        rooms=(
            Room(
                id="room",
                name="Room",
                described=Described(floor_area_m2=20.0),
                height_m=2.5,
                built="1950_1977",
                mass_class="medium",
            ),
        ),
        levels=(Level(id="in-use", name="In use", heating_c=20.0),),
        zones=(
            Zone(
                id="zone",
                name="Room",
                room_ids=("room",),
                timetables=every_day("every", ChangePoint(start_min=0, level_id="in-use")),
            ),
        ),
    )
    # A second room that loses next to nothing shares the zone, so that the first may be warmer than it asks.
    still = Estimate(value=0.01, low=0.01, high=0.01)
    beside = replace(room, room_id="beside", loss_w_k=still, gain_w=0.0, is_fitted=True, excess_k=None)
    return HomeEvidence(home=home, today=date(2026, 1, 20), climate=CLIMATE, rooms=(room, beside))
