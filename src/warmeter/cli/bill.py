"""``warmeter bill``: the bill of a log by a tariff, both as files."""

import argparse
import json
import sys
from pathlib import Path

from warmeter.cli.files import Answer, log_lines
from warmeter.core.errors import ReadingError, TariffError
from warmeter.core.home.document import Home, Place
from warmeter.core.home.log_subjects import log_subjects
from warmeter.core.home.tariffs import TariffFile
from warmeter.core.readings.csvlog import ReadLog, TakenSeries
from warmeter.core.readings.espi import looks_like_espi, read_espi
from warmeter.core.readings.log_proposal import propose_mapping
from warmeter.core.readings.logtable import read
from warmeter.core.tariff.bill import Bill, Metered, bill
from warmeter.core.tariff.market_prices import MarketPrices
from warmeter.core.tariff.metered_energy import MeteredEnergy, metered_energy
from warmeter.core.tariff.price_file import read_prices
from warmeter.core.timegrid import LocalClock
from warmeter.service.tariffs.bills import billed
from warmeter.service.tariffs.tariff_file import tariffs_from_json

LOOKED_AT, MOST_TOLD = 2_000, 5
METER, PLUG, SOLD = "grid_import_w", "electric_w", "grid_export_w"


def run(options: argparse.Namespace) -> int:
    """Print the bill of a log; without dates of all local days that it touches."""
    try:
        file = tariffs_from_json(_bytes(options.tariff))
    except TariffError as error:
        raise ReadingError(f"{options.tariff}: {error}") from error
    clock = LocalClock(file.time_zone)
    log, notes = _log(options.log, file, clock)
    bought = _energy(log, METER) or _energy(log, PLUG)
    if bought is None:
        raise ReadingError(
            f"{options.log} holds no energy or power of a meter; name the column by its unit, such as Import kWh"
        )
    metered = billed(Metered(bought, _energy(log, SOLD), _market(options.prices, file)), file.tariffs[-1])
    begin, end = bought.span_ms
    first = options.first or clock.local(begin).date()
    last = options.last or clock.local(max(begin, end - 1)).date()
    made = bill([t for t in file.tariffs if not t.is_offer], clock, first, last, metered, file.currency_changes)
    notes += [
        f"the counter stands lower at {clock.local(fall):%d %b %Y %H:%M} than before; that time is missing"
        for fall in bought.falls_ms
    ]
    if options.json:
        print(json.dumps({**_answer(made), "notes": notes}, indent=1, ensure_ascii=False))
    else:
        _print(made)
    for note in notes:
        print(note, file=sys.stderr)
    return 0


def _answer(made: Bill) -> Answer:
    """Return a bill with its lines; amounts are strings, exact."""
    return {
        "first": str(made.first),
        "last": str(made.last),
        "total": f"{made.total:f}",
        "currency": made.currency,
        "net": f"{made.net:f}",
        "tax": f"{made.tax:f}",
        "energy_kwh": float(made.units),
        "exported_kwh": float(made.sold),
        "missing_intervals": made.missing.intervals,
        "missing_could_add": {"likely": round(made.missing.likely_cost, 2), "most": round(made.missing.most_cost, 2)},
        "unpriced_kwh": float(made.unpriced),
        "spread_between": _spread_between(made),
        "lines": [
            {
                "name": line.name,
                "kind": line.kind,
                "first": str(line.first),
                "last": str(line.last),
                "kwh": float(line.units) if line.unit == made.unit else None,
                "units": f"{line.units.normalize():f}",
                "unit": line.unit,
                "price": None if line.price is None else f"{line.price.normalize():f}",
                "above": None if line.above is None else f"{line.above.normalize():f}",
                "amount": f"{line.amount:f}",
                "is_within": line.is_within,
            }
            for line in made.lines
        ],
    }


def _print(made: Bill) -> None:
    for line in made.lines:
        price = "" if line.price is None else f" x {line.price.normalize():f}"
        print(f"{line.name:32} {line.units.normalize():f} {line.unit}{price} = {line.amount:f}")
    print(f"{made.first} to {made.last}: {made.total:f} {made.currency}, {made.units.normalize():f} {made.unit}")
    if made.missing.intervals:
        print(
            f"{made.missing.intervals} of {made.missing.of} intervals are missing; as at like hours they would add "
            f"{made.missing.likely_cost:.2f}, at most {made.missing.most_cost:.2f} {made.currency}"
        )
    between = _spread_between(made)
    if between is not None:
        print(
            f"readings lie farther apart than prices hold: by when it was drawn, between {between[0]} and {between[1]} "
            f"{made.currency}"
        )
    if made.unpriced:
        print(f"{made.unpriced.normalize():f} {made.unit} have no price of the market and stand in no line")


def _spread_between(made: Bill) -> list[str] | None:
    """Return between what the total lies where readings are farther apart than prices hold."""
    if made.spread is None:
        return None
    rest = float(made.total) - made.spread.taken_cost
    return [f"{rest + made.spread.low_cost:.2f}", f"{rest + made.spread.high_cost:.2f}"]


def _bytes(path: Path) -> bytes:
    return path.read_bytes()


def _log(path: Path, file: TariffFile, clock: LocalClock) -> tuple[ReadLog, list[str]]:
    """Return a log with what was taken for granted or left out in reading it, in sentences."""
    data = path.read_bytes()
    if looks_like_espi(data[:4096]):
        return read_espi(data), []
    home = Home(
        id="bill",
        name="Bill",
        place=Place(latitude_deg=0.0, longitude_deg=0.0),
        time_zone=file.time_zone,
        country="GB",
        currency=file.tariffs[0].currency,
    )
    lines = log_lines(path)
    proposal = propose_mapping(lines[:LOOKED_AT], log_subjects(home))
    notes = [ask.sentence for ask in proposal.asks]
    if proposal.suggested.clock == "home":
        notes.append(f"times stand without an offset: read on the clock of {file.time_zone}")
    found = read(lines, proposal.suggested, clock)
    for each in found.refusals[:MOST_TOLD]:
        lines_words = f"line {each.first}" if each.first == each.last else f"lines {each.first} to {each.last}"
        notes.append(f"{lines_words}, {each.outcome}: {each.reason}")
    if len(found.refusals) > MOST_TOLD:
        notes.append(f"and {len(found.refusals) - MOST_TOLD} more such lines")
    return found, notes


def _energy(log: ReadLog, quantity: str) -> MeteredEnergy | None:
    found: list[TakenSeries] = [s for s in log.series if s.record.quantity == quantity]
    return None if not found else metered_energy(found[0].record, found[0].readings)


def _market(path: Path | None, file: TariffFile) -> MarketPrices | None:
    if path is None:
        return None
    zone = next((t.market.time_zone for t in file.tariffs if t.market is not None), file.time_zone)
    return read_prices(path.read_text(encoding="utf-8-sig"), LocalClock(zone), file.tariffs[0].currency)
