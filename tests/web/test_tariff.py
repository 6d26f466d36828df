"""Rates, bills, offers and use through the application."""

import json
import re
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from tests.tariffs import rate, tariff
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.edits.edit import Edit
from warmeter.core.home.document import Home
from warmeter.core.home.tariffs import RATE_DAYS, StandingCharge, Tariff, TariffFile, Tax
from warmeter.core.timegrid import LocalClock, from_ms
from warmeter.core.wording import MINUS
from warmeter.service.homes.editing import edit_home
from warmeter.service.readings import logs
from warmeter.service.tariffs.tariff_file import tariffs_to_json
from warmeter.web.tariff.rate_texts import parse_seasons

LONDON = LocalClock("Europe/London")


@dataclass(frozen=True)
class _Become:
    """A command that makes a home another one."""

    home: Home

    def edit(self, home: Home) -> Edit:  # whatever it was
        """Return the other one."""
        return Edit(self.home, "as a test wants it")


def meter_csv(first: date, last: date, kwh: str = "0.5") -> str:
    """Return half-hours of local days [first, last] that are all alike."""
    begin, end = LONDON.instant(first, 0), LONDON.instant(date.fromordinal(last.toordinal() + 1), 0)
    times = (f"{from_ms(at):%Y-%m-%dT%H:%M:%SZ}" for at in range(begin, end, 1_800_000))
    return "\n".join(["time,Grid import kWh", *(f"{time},{kwh}" for time in times)]) + "\n"


class TariffCase(Case):
    def act(self, command: str, status: int = 200, **fields: Any) -> str:
        """Do a command on the tariff and return the page."""
        _, base = self.app.homes.load("home1")
        said = {key.replace("__", "."): str(value) for key, value in fields.items()}
        answer = self.client.post(f"/homes/home1/tariff/{command}", data={"base": str(base), **said})
        self.assertEqual(answer.status_code, status, answer.text[:600])
        return plain_spaces(answer.text)

    def page(self, query: str = "", route: str = "tariff") -> str:
        """Return a page of the tariff."""
        answer = self.client.get(f"/homes/home1/{route}{query}")
        self.assertEqual(answer.status_code, 200, answer.text[:600])
        return plain_spaces(answer.text)

    def now(self) -> tuple[Tariff, ...]:
        """Return the home's tariffs."""
        return self.app.homes.load("home1")[0].tariffs

    def put(self, *tariffs: Tariff) -> None:
        """Give the home tariffs in the place of its own."""
        home, base = self.app.homes.load("home1")
        edit_home(self.app, "home1", base, ANN, _Become(replace(home, tariffs=tariffs)))

    def import_log(self, text: str, name: str = "meter.csv") -> None:
        """Import a log as it is proposed."""
        upload = logs.keep_upload(self.app, name, [text.encode()])
        home, _ = self.app.homes.load("home1")
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)


class Rates(TariffCase):
    def test_a_first_price_then_seasons_hours_network_and_tax(self) -> None:
        self.put()
        self.assertIn("Begin with one price", self.page())
        self.act("first", name="Harbour", price="0,30", standing="0.5")
        (own,) = self.now()
        self.assertEqual(
            (own.name, str(own.rates[0].price_per_unit), str(own.standing[0].amount)), ("Harbour", "0.30", "0.5")
        )
        page = self.act(
            "rate-add",
            id=own.id,
            name="Winter, dear",
            price="45 p",
            seasons="1 Nov to 15 Feb",
            from_min="16:00",
            to_min="20:00",
            **_days(*RATE_DAYS[:5]),
        )
        self.assertIn("45.0", page)
        self.assertIn("1 Nov to 15 Feb", page)
        (own,) = self.now()
        self.assertEqual([each.name for each in own.rates], ["Winter, dear", "all hours"], "it stands where it holds")
        self.act("rate-add", id=own.id, name="net", price="0.05", part="network", **_every())
        details: dict[str, Any] = {
            "id": own.id,
            "name": "Harbour",
            "currency": "GBP",
            "t1_name": "VAT",
            "t1_pct": "5",
            "s1_amount": "0.4",
        }
        self.act("details", **details, s1_taxed="on", each="line")
        (own,) = self.now()
        self.assertEqual((own.taxes[0].rate, own.prices_include_tax), (Decimal("0.05"), False))
        self.assertIn("36.8", self.page(), "0.35 with 5 % on the lane")

    def test_what_is_wrong_is_said_for_each_field_and_nothing_is_saved(self) -> None:
        own = self.now()[0]
        good: dict[str, Any] = {
            "id": own.id,
            "name": "x",
            "price": "0.2",
            "from_min": "00:00",
            "to_min": "06:00",
            **_every(),
        }
        for change, words in (
            ({"price": "cheap"}, "price"),
            ({"seasons": "31 Feb to 1 Mar"}, "no day 31"),
            ({"seasons": "13"}, "between 1 and 12"),
            ({"from_min": "06:00"}, "Two different times"),
            ({"tiers": "above many: 3"}, "above 300"),
            ({"tiers": "above 300: 0.2; above 100: 0.3"}, "must rise"),
            ({"valid_from": "2026-05-01", "valid_to": "2026-04-01"}, "before it begins"),
        ):
            page = self.act("rate-add", 422, **{**good, **change})
            self.assertIn(words, page, change)
        no_day = {key: value for key, value in good.items() if not key.startswith("days__")}
        self.assertIn("at least one day", self.act("rate-add", 422, **no_day))
        for change in ({"holidays": "Easter"}, {"valid_from": "soon"}, {"t1_pct": "much"}, {"meter_unit": "m³"}):
            fields: dict[str, Any] = {"id": own.id, "name": "x", "currency": "GBP", "billed_unit": "kWh", **change}
            self.act("details", 422, **fields)
        self.assertEqual(self.now()[0], own)

    def test_holes_overlaps_and_idle_rates_are_found_and_put_right(self) -> None:
        self.put(
            tariff(
                rate("peak", "0.446", seasons=(("11-01", "02-29"),), from_min=960, to_min=1200),
                rate("feast", "0.1", days=("holiday",), from_min=960, to_min=1200),
                rate("night", "0.142", from_min=1320, to_min=360),
                id="t1",
                currency="GBP",
                holidays=(date(2026, 1, 1), date(2026, 2, 2)),
            )
        )
        page = self.page()
        for words in (
            "Hole.",
            "Overlap.",
            "1 peak and 2 feast both claim",
            "Nov to Feb",
            "every day",
            "44.6",
            "no rate",
        ):
            self.assertIn(words, page)
        button = re.search(r'name="place" value="1"><input type="hidden" name="to_place" value="0">', page)
        self.assertIsNotNone(button)
        page = self.act("rate-move", id="t1", place=1, to_place=0)
        self.assertNotIn("both claim", page)
        self.put(tariff(rate("flat", "0.3"), rate("night", "0.1", to_min=360), id="t1", currency="GBP"))
        self.assertIn("2 night never holds", self.page())

    def test_an_edge_of_a_lane_moves_both_rates_that_meet_there(self) -> None:
        self.put(tariff(rate("night", "0.1", to_min=360), rate("day", "0.3"), id="t1", currency="GBP"))
        self.assertIn('id="h-price-0-360"', self.page())
        _, base = self.app.homes.load("home1")
        fields = {"base": str(base), "key": "0-360", "minute": "420"}
        answer = self.client.post("/homes/home1/tariffs/t1/edge", data=fields, headers={"HX-Request": "true"})
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        self.assertEqual(self.now()[0].rates[0].hours.to_min, 420)
        for bad in ({"key": "0-360", "minute": "500"}, {"key": "0-420", "minute": "1440"}, {"key": "x", "minute": "5"}):
            _, base = self.app.homes.load("home1")
            self.assertEqual(
                self.client.post("/homes/home1/tariffs/t1/edge", data={"base": str(base), **bad}).status_code, 422
            )

    def test_prices_change_on_a_date_by_a_copy_that_goes_on(self) -> None:
        own = self.now()[0]
        self.act("follow", id=own.id, begins="2026-04-01")
        before, after = self.now()
        self.assertEqual((before.valid_to, after.valid_from), (date(2026, 3, 31), date(2026, 4, 1)))
        self.assertEqual(before.rates, after.rates)
        self.act("remove", id=after.id)
        self.assertEqual(len(self.now()), 1)

    def test_public_holidays_are_filled_in_to_be_looked_at(self) -> None:
        own = self.now()[0]
        page = self.act("details", id=own.id, name="x", currency="GBP", propose="1")
        self.assertIn("2026-12-25", page)
        self.assertEqual(self.now()[0].holidays, (), "nothing is saved yet")

    def test_seasons_as_people_write_them(self) -> None:
        for text, expected in (
            ("", ()),
            ("all year", ()),
            ("11-3", (("11-01", "03-31"),)),
            ("Oct to Mar", (("10-01", "03-31"),)),
            ("1 Oct – 15 March", (("10-01", "03-15"),)),
            ("Dec", (("12-01", "12-31"),)),
            ("10-01 to 03-31, 1 Jul to 2 Jul", (("10-01", "03-31"), ("07-01", "07-02"))),
        ):
            self.assertEqual(tuple((s.from_day, s.to_day) for s in parse_seasons(text)), expected, text)


class Bills(TariffCase):
    def setUp(self) -> None:
        super().setUp()
        self.put(
            tariff(
                rate("night", "0.10", to_min=360),
                rate("day", "0.30"),
                id="t1",
                currency="GBP",
                standing=(StandingCharge(amount=Decimal("0.5")),),
                taxes=(Tax(rate=Decimal("0.05")),),
            )
        )

    def test_a_month_is_billed_with_its_lines_and_what_is_missing(self) -> None:
        self.assertIn("Nothing is metered yet", self.page())
        self.import_log(meter_csv(date(2026, 2, 1), date(2026, 3, 31)))
        page = self.page("?month=2026-03")
        for words in ("185.0 kWh × 10 p", "18.50", "558.0 kWh × 30 p", "167.40", "31 days × £0.5", "201.40", "10.07"):
            self.assertIn(words, page.replace("\u2009", " "))
        self.assertIn('id="bill-total">211.47<', page)
        self.assertIn("1488 of 1488 intervals are missing", self.page("?month=2026-05").replace("\u2009", ""))
        rows = self.client.get("/homes/home1/bill.csv?first=2026-03-01&last=2026-03-31").text.splitlines()
        self.assertIn("211.47,GBP", rows[-1])
        self.assertEqual(len(self.client.get("/homes/home1/bill.csv?month=2026-03").text.splitlines()), 1 + 12 * 5 - 20)
        for bad in ("first=2026-03-01", "first=2026-03-05&last=2026-03-01", "month=soon"):
            self.assertEqual(self.client.get(f"/homes/home1/bill.csv?{bad}").status_code, 422, bad)

    def test_a_typed_bill_is_explained_line_by_line(self) -> None:
        self.import_log(meter_csv(date(2026, 3, 1), date(2026, 3, 31)))
        self.assertIn("Type in a bill as printed", self.page("?pane=bill"))
        # 10 kWh of day too many at 0.30 and 5 %: 3.15 more.
        page = self.act(
            "bill",
            first="2026-03-01",
            last="2026-03-31",
            total="214.62",
            l1_name="night",
            l1_units="185",
            l1_price="0.10",
            l2_name="day",
            l2_units="568",
            l2_price="0.30",
        )
        self.assertIn("£3.15 more than worked out. It is explained", page)
        self.assertIn("Energy, day", page)
        self.assertIn("+3.15", page)
        bill = self.app.homes.load("home1")[0].typed_bills[0]
        page = self.act(
            "bill", id=bill.id, first="2026-03-01", last="2026-03-31", total="200", l1_name="night", l2_name="day"
        )
        self.assertIn("Not wholly explained", page)
        self.assertIn(f"{MINUS}11.47", page)
        self.act("bill", 422, first="2026-03-31", last="2026-03-01", total="1")
        self.assertNotIn("Not wholly", self.act("bill-remove", id=bill.id))

    def test_readings_that_are_typed_make_a_bill_with_its_range(self) -> None:
        self.act("reading", on="2026-01-01", value="4000", carrier="electricity")
        page = self.act("reading", on="2026-02-01", value="4310", carrier="electricity")
        self.assertIn("known only over longer than the prices hold", page)
        meter = self.app.homes.load("home1")[0].meters[0]
        self.assertEqual([str(r.value) for r in meter.readings], ["4000", "4310"])
        self.act("reading-remove", id=meter.id, place=0)
        self.assertEqual(len(self.app.homes.load("home1")[0].meters[0].readings), 1)

    def test_gas_has_a_tariff_and_a_meter_of_its_own(self) -> None:
        gas = Tariff(
            id="gas",
            name="Gas",
            currency="GBP",
            carrier="gas",
            meter_unit="m³",
            kwh_per_unit=Decimal("11.1868"),
            rates=(rate("gas", "0.0741"),),
        )
        self.put(*self.now(), gas)
        for on, value in (("2026-01-01", "4321"), ("2026-02-01", "4444.456")):
            self.act("reading", on=on, value=value, carrier="gas", unit="m³")
        page = self.page("?tariff=gas&month=2026-01")
        self.assertIn('id="bill-total">102.34<', page)
        self.assertIn("Nothing is metered yet", self.page("?tariff=t1"), "electricity has no meter of gas")

    def test_another_currency_from_a_date_on(self) -> None:
        self.act("currency", on="2026-03-16", from_currency="gbp", to_currency="eur", rate="0.8")
        self.import_log(meter_csv(date(2026, 3, 1), date(2026, 3, 31)))
        page = self.page("?month=2026-03")
        self.assertIn("paid in EUR at 0.8 GBP for one", page.replace("\u2009", " "))
        self.act("currency-remove")
        self.act("currency", 422, on="2026-03-16", from_currency="GBP", to_currency="GBP", rate="1")


class FilesAndOffers(TariffCase):
    def test_tariffs_go_out_and_come_in_as_json(self) -> None:
        text = self.client.get("/homes/home1/tariffs.json")
        self.assertEqual(json.loads(text.text)["format"], "warmeter-tariff/1")
        self.put()
        _, base = self.app.homes.load("home1")
        files = {"file": ("t.json", text.content, "application/json")}
        self.client.post("/homes/home1/tariffs-file", data={"base": str(base)}, files=files)
        self.assertEqual([t.name for t in self.now()], ["Two rates"])
        elsewhere = TariffFile(time_zone="Asia/Tokyo", tariffs=self.now())
        for content, words in (
            (tariffs_to_json(elsewhere), "Asia/Tokyo"),
            (b"{}", "no file of tariffs"),
            (b"prices", "no JSON"),
            (text.content.replace(b'"0.30"', b'"dear"'), "price_per_unit"),
        ):
            _, base = self.app.homes.load("home1")
            files = {"file": ("t.json", content, "application/json")}
            answer = self.client.post("/homes/home1/tariffs-file", data={"base": str(base)}, files=files)
            self.assertIn(words, plain_spaces(answer.text))

    def test_the_markets_prices_are_imported_and_billed(self) -> None:
        own = self.now()[0]
        fields: dict[str, Any] = {"id": own.id, "name": "Market", "currency": "GBP", "market_zone": "Europe/Berlin"}
        self.act("details", **fields, follows_market="on", market_step="60")
        self.put(replace(self.now()[0], rates=(rate("adder", "0"),)))
        days = {"2026-03-28": ["100"] * 24, "2026-03-29": ["200"] * 23, "2026-03-30": ["-50"] * 24}
        text = json.dumps({"unit": "GBP/MWh", **days})
        answer = self.client.post(
            f"/homes/home1/tariffs/{own.id}/market",
            files={"file": ("p.json", text, "application/json")},
            follow_redirects=False,
        )
        path = answer.headers["location"]
        self.assertIn("market price of electricity", self.client.get(path).text)
        token = path.rsplit("/", 1)[1]
        upload = logs.find_upload(self.app, token)
        home, _ = self.app.homes.load("home1")
        mapping = logs.proposal(self.app, home, upload).suggested
        self.assertEqual([(c.quantity, c.unit) for c in mapping.taken], [("market_price", "/kWh")])
        logs.take(self.app, "home1", upload, mapping, ANN)
        self.import_log(meter_csv(date(2026, 3, 28), date(2026, 3, 30)))
        # Days of London: 24 h from 00:00 GMT are 23 of the first at 0.10 and one of the second at 0.20, and so on.
        csv_rows = self.client.get("/homes/home1/bill.csv?first=2026-03-28&last=2026-03-30").text
        line = next(row for row in csv_rows.splitlines() if "market" in row and "total" not in row)
        self.assertEqual(line.split(",")[9], f"{23 * 0.10 + 23 * 0.20 - 24 * 0.05:.2f}")
        for bad, words in (
            ({"2026-03-29": ["1"] * 24}, "23 hours"),
            ({"unit": "EUR/MWh", "2026-03-28": ["1"] * 24}, "in EUR"),
        ):
            files = {"file": ("p.json", json.dumps(bad), "application/json")}
            answer = self.client.post(f"/homes/home1/tariffs/{own.id}/market", files=files)
            self.assertIn(words, plain_spaces(answer.text))

    def test_a_year_on_each_tariff_and_the_hours_that_decide(self) -> None:
        self.assertIn("Nothing is metered yet", self.page(route="which-tariff"))
        self.import_log(meter_csv(date(2026, 2, 1), date(2026, 3, 31)))
        self.assertIn("nothing to compare", self.page(route="which-tariff"))
        own = self.now()[0]
        self.act("offer", name="Flat offer", price="0.20")
        page = self.page(route="which-tariff").replace("\u2009", "")
        # 1415 h at 1 kW: 0.20 each; 0.10 for 353 of them and 0.30 for 1062.
        self.assertIn("£283", page)
        self.assertIn(f"£{353 * 0.10 + 1062 * 0.30:.2f}", page)
        self.assertIn(f"Flat offer costs £71 less than {own.name}", page)
        self.assertIn("between 06 and 24 h", page)
        self.assertIn("dearer", page)

    def test_own_sun_on_the_bill(self) -> None:
        begin = LONDON.instant(date(2026, 1, 1), 0)
        rows = ["time,Grid import kWh,Grid export kWh,Solar energy kWh"]
        for half_hour in range(48 * 31):
            noon = half_hour % 48 == 24
            rows.append(
                f"{from_ms(begin + half_hour * 1_800_000):%Y-%m-%dT%H:%M:%SZ},0.25,{0.4 if noon else 0},{1 if noon else 0}"
            )
        self.import_log("\n".join(rows) + "\n")
        page = self.page("?month=2026-01").replace("\u2009", "")
        # 31 noons of 1 kWh, of which 0.4 are sold: 18.6 kWh that would have been bought at 0.30.
        self.assertIn(
            "Of 31.0 kWh of the sun 18.6 were used at home: bought instead, they would have added £5.58", page
        )

    def test_own_sun_without_a_meter_of_what_is_sold_is_no_more_than_a_most(self) -> None:
        begin = LONDON.instant(date(2026, 1, 1), 0)
        times = [f"{from_ms(begin + k * 1_800_000):%Y-%m-%dT%H:%M:%SZ}" for k in range(48 * 31)]
        rows = [f"{time},0.25,{1 if k % 48 == 24 else 0}" for k, time in enumerate(times)]
        self.import_log("\n".join(["time,Grid import kWh,Solar energy kWh", *rows]) + "\n")
        page = self.page("?month=2026-01").replace("\u2009", "")
        self.assertIn("Of 31.0 kWh of the sun at most 31.0 were used at home", page)
        self.assertIn("what is sold is not metered", page)

    def test_a_year_as_planned_moves_logged_runs_to_cheap_hours(self) -> None:
        self.with_logs()
        self.import_log(meter_csv(date(2026, 1, 1), date(2026, 1, 31), "2"))
        page = self.page(route="which-tariff").replace("\u2009", "")
        told = re.search(r"As planned: (\d+) logged runs of Washer", page)
        assert told is not None
        was, planned = (
            float(each) for each in re.findall(r"£([\d.]+)</b></td> <td class=\"wm-num\">£([\d.]+)", page)[0]
        )
        # No run draws more than a kWh or two: moved from 0.30 to 0.10 each saves some tens of pence, no more.
        self.assertTrue(0 < was - planned < 0.2 * 3 * int(told[1]), (was, planned, told[1]))

    def test_use_by_machine_and_day_and_hour(self) -> None:
        self.assertIn("Where the kilowatt-hours go", self.page(route="use"))
        self.with_logs()
        self.import_log(meter_csv(date(2026, 1, 1), date(2026, 1, 31), "2"))
        page = self.page("?month=2026-01", route="use")
        for words in ("Washer", "The rest", "Energy of each day", "Energy by hour"):
            self.assertIn(words, page)
        # The rest is billed like the whole less what was heard of the parts: 2976 kWh at 0.25 in the mean.
        money = [float(each) for each in re.findall(r"£([\d.]+)</td>", page)]
        self.assertAlmostEqual(sum(money[::2]), 2976 * 0.25, delta=0.06)
        rows = self.client.get("/homes/home1/use.csv?month=2026-01").text.splitlines()
        self.assertEqual((len(rows), rows[0]), (32, 'date,"Heating, Study kWh",Washer kWh,The rest kWh'))
        self.assertIn(",,", rows[1] + ",", "a day that the plug did not hear is empty, not nought")


def _days(*days: str) -> dict[str, Any]:
    return {f"days__{day}": "on" for day in days}


def _every() -> dict[str, Any]:
    return _days(*RATE_DAYS)
