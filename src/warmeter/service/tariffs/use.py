"""What machines and rooms of a home used, day by day, at the prices of their hours."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.building.fuel import burns_fuel
from warmeter.core.home.document import Home
from warmeter.core.tariff.bill_share import BillShare, without
from warmeter.core.tariff.metered_energy import MeteredEnergy, metered_energy
from warmeter.core.tariff.use_shares import REST, UseOfDays, slot_starts, use_of_days
from warmeter.core.units import MS_PER_DAY
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.readings.room_logs import series_of
from warmeter.service.tariffs.bill_shares import share_of_bills
from warmeter.service.tariffs.bills import carrier_meter
from warmeter.service.tariffs.pricing import known_prices
from warmeter.store.readings import StoredSeries

_USED: Cache["HomeUse"] = Cache(40)


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeUse:
    """A home's use over days, and what each part added to the bills of the twelve months that end with them.

    ``shares`` is by a part's name, the rest among them; empty without a meter or a tariff.
    """

    days: UseOfDays
    shares: Mapping[str, BillShare]


def home_use(app: App, home: Home, first: date, last: date) -> HomeUse:
    """Return what each logged machine and each room with a direct electric heater used on local days [first, last]."""
    key = (
        str(app.engine.url),
        home.id,
        home.appliances,
        home.heaters,
        home.sources,
        home.tariffs_of("electricity"),
        home.currency_changes,
        home.meters,
        home.time_zone,
        first,
        last,
        app.readings.import_stamp(home.id),
    )
    return _USED.get(key, lambda: _home_use(app, home, first, last))


def _home_use(app: App, home: Home, first: date, last: date) -> HomeUse:
    clock = app.clock(home)
    year_before = first - timedelta(days=366)
    begin, end = clock.instant(year_before, 0), clock.instant(last + timedelta(days=1), 0)
    parts = []
    for machine in home.appliances:
        series = series_of(app, home.id, "electric_w", machine.id)
        if series:
            parts.append((machine.name, _energy(app, series[0], begin, end)))
    for room in home.rooms:
        heater = home.heater_of(room.id)
        series = series_of(app, home.id, "heat_w", room.id)
        if heater is not None and series:
            source = home.source(heater.source_id)
            if source.kind == "direct" and not burns_fuel(heater, source):
                parts.append((f"Heating, {room.name}", _energy(app, series[0], begin, end)))
    whole = carrier_meter(app, home, "electricity").metered.bought
    prices = known_prices(app, home, slot_starts(clock, first, last)[:-1])
    found = use_of_days(
        parts, whole if whole.start_ms.size else None, clock, first, last, None if prices is None else prices.by_step
    )
    return HomeUse(days=found, shares=_shares(app, home, parts, last) if whole.start_ms.size else {})


def _shares(app: App, home: Home, parts: list[tuple[str, MeteredEnergy]], last: date) -> dict[str, BillShare]:
    """Return what each part added to the bills; the rest is what the meter counts without all of them."""
    left = carrier_meter(app, home, "electricity").metered
    found = {}
    for name, energy in parts:
        share = share_of_bills(app, home, energy, last)
        if share is not None:
            found[name] = share
        left = without(left, energy)
    share = share_of_bills(app, home, left.bought, last)
    return found if share is None else {**found, REST: share}


def _energy(app: App, series: StoredSeries, begin: int, end: int) -> MeteredEnergy:
    return metered_energy(series.record, app.readings.readings(series.id, begin - MS_PER_DAY, end + MS_PER_DAY))
