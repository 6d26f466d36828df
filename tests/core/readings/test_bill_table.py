"""Bills and readings of periods, against sums by hand."""

import unittest
from itertools import pairwise

from warmeter.core.errors import ReadingError
from warmeter.core.readings.bill_table import looks_like_bill, table_of_bill


def counted(text: str) -> list[tuple[str, float]]:
    """Return the times and the counter of a bill's table."""
    assert looks_like_bill(text.splitlines())
    return [(row.split(",")[0], float(row.split(",")[1])) for row in table_of_bill(text).splitlines()[1:]]


def used(text: str) -> list[float]:
    """Return what the counter rises by from reading to reading."""
    values = [value for _, value in counted(text)]
    return [round(b - a, 6) for a, b in pairwise(values)]


class Bills(unittest.TestCase):
    def test_months_by_name_or_number_end_where_the_next_begins(self) -> None:
        for months in (
            ("Jan 2026", "Feb 2026"),
            ("2026-01", "2026-02"),
            ("1/2026", "2/2026"),
            ("2026 January", "2026 Feb"),
        ):
            text = f"month,kWh\n{months[0]},310.5\n{months[1]},280\n"
            with self.subTest(months[0]):
                self.assertEqual(
                    [t for t, _ in counted(text)], ["2026-01-01 00:00", "2026-02-01 00:00", "2026-03-01 00:00"]
                )
                self.assertEqual(used(text), [310.5, 280])

    def test_a_month_that_is_missing_or_empty_is_not_taken_for_nothing(self) -> None:
        self.assertEqual(used("month,kWh\nJan 2026,100\nMar 2026,80\n"), [100, -1, 80])
        self.assertEqual(used("month,kWh\nJan 2026,100\nFeb 2026,\nMar 2026,80\n"), [100, -1, 80])

    def test_the_last_day_named_belongs_to_its_period(self) -> None:
        text = "from,to,used kWh\n2026-01-08,2026-02-06,300\n2026-02-07,2026-03-09,310\n"
        self.assertEqual([t for t, _ in counted(text)], ["2026-01-08 00:00", "2026-02-07 00:00", "2026-03-10 00:00"])
        meeting = "from,to,used kWh\n2026-01-08,2026-02-07,300\n2026-02-07,2026-03-09,310\n"
        self.assertEqual([t for t, _ in counted(meeting)][-1], "2026-03-09 00:00")

    def test_beginnings_alone_reach_to_the_next_with_their_offsets(self) -> None:
        text = "start,value\n2015-11-22T00:00:00-06:00,725.1\n2015-12-21T00:00:00-06:00,1196.81\n2016-01-24T00:00:00-06:00,900\n"
        found = counted(text)
        self.assertEqual([t for t, _ in found], [line.split(",")[0] for line in text.splitlines()[1:]])
        self.assertEqual(used(text), [725.1, 1196.81])

    def test_a_comma_parts_thousands_where_commas_part_cells(self) -> None:
        self.assertEqual(used('month,kWh\nJan 2026,"1,310"\nFeb 2026,990\n'), [1310, 990])
        self.assertEqual(used("month;kWh\nJan 2026;1,31\nFeb 2026;990\n"), [1.31, 990])

    def test_readings_of_a_counter_and_logs_are_no_bills(self) -> None:
        for text in (
            "date,kWh\n2026-01-01,20114\n2026-02-01,20500\n2026-03-01,20990\n",
            "time,Kitchen\n2026-01-01 00:00,20\n2026-01-01 00:10,20.1\n2026-01-01 00:20,20\n",
            "date,from,to,kWh\n05/01/2026,00:00,00:15,0.1\n05/01/2026,00:15,00:30,0.2\n",
        ):
            self.assertFalse(looks_like_bill(text.splitlines()), text)

    def test_what_cannot_be_is_refused_with_what_to_do(self) -> None:
        for text, words in (
            ("from,to,kWh\n01/02/2026,01/03/2026,300\n01/03/2026,01/04/2026,280\n", "day first or month first"),
            ("from,to,kWh\n2026-01-01,2026-02-10,300\n2026-02-01,2026-03-01,280\n", "begins before"),
            ("month,colour\nJan 2026,red\nFeb 2026,blue\n", "no column of this bill is an energy"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ReadingError, words):
                table_of_bill(text)


if __name__ == "__main__":
    unittest.main()
