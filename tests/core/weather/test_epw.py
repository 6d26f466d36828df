"""A year's weather file: its cold against a year whose days are known."""

import unittest
from collections.abc import Iterator

import numpy as np

from warmeter.core.errors import ReadingError
from warmeter.core.weather.epw import read_epw

HEATING = "DESIGN CONDITIONS,1,Made up,,Heating,1,-11.3,-8.6,-17.1,0.8"


def year(heading: str = HEATING, hours: int = 8760, coldest: int = 40) -> Iterator[str]:
    """Yield a made-up year of days alike within themselves: 10 °C, one of -14 °C, the first hour missing."""
    yield "LOCATION,Harbour Town,-,NLD,made up,1,52,5,1,2"
    yield heading
    yield from ("TYPICAL", "GROUND", "HOLIDAYS", "COMMENTS 1", "COMMENTS 2", "DATA PERIODS")
    for k in range(hours):
        air = 99.9 if k == 0 else -14.0 if k // 24 == coldest else 10.0
        yield f"2001,{1 + k // 730},1,{k % 24 + 1},60,?9,{air},5.0,80,101000"


class Epw(unittest.TestCase):
    def test_the_headings_condition_the_coldest_day_and_the_mean(self) -> None:
        found = read_epw(year())
        self.assertEqual((found.place, found.heating_c, found.design_c), ("Harbour Town, NLD", -11.3, -11.3))
        self.assertEqual(found.coldest_day_c, -14.0)
        self.assertAlmostEqual(found.mean_c, (8759 * 10 - 24 * 24) / 8759)

    def test_without_a_condition_the_coldest_day_is_taken(self) -> None:
        for heading in (
            "DESIGN CONDITIONS,0",
            "DESIGN CONDITIONS,1,Made up,,Heating,1",
            "DESIGN CONDITIONS,1,x,,Heating,1,n/a",
        ):
            found = read_epw(year(heading))
            self.assertIsNone(found.heating_c)
            self.assertEqual(found.design_c, -14.0)

    def test_what_is_no_years_file_is_refused_with_its_place(self) -> None:
        lines = list(year())
        broken = [*lines[:100], "2001,1,4,21,60,?9,cold", *lines[101:]]
        hot = [*lines[:100], "2001,1,4,21,60,?9,250", *lines[101:]]
        for text, why in (
            (["time,°C", "1,2"], "no EPW file"),
            (lines[:500], "492 hours"),
            (broken, "line 101"),
            (hot, "250 °C"),
            ([*lines[:8], *("2001,1,1,1,60,?9,99.9" for _ in range(8760))], "no day"),
        ):
            with self.subTest(why), self.assertRaisesRegex(ReadingError, why), np.errstate(all="raise"):
                read_epw(text)


if __name__ == "__main__":
    unittest.main()
