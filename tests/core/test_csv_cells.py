"""Tables that are opened in a spreadsheet run nothing, and come back as they were."""

import csv
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from warmeter.core.csv_cells import cell_text, csv_text

TEXTS = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=12).map(str.strip)
RISKY = st.builds(lambda mark, rest: mark + rest, st.sampled_from(["=", "+", "-", "@", "'=", "''@"]), TEXTS)


class Cells(unittest.TestCase):
    @settings(deadline=None, derandomize=True)
    @given(st.lists(st.lists(st.one_of(TEXTS, RISKY).map(str.strip), min_size=2, max_size=4), min_size=1, max_size=4))
    def test_no_cell_is_a_formula_and_each_comes_back(self, rows: list[list[str]]) -> None:
        read = list(csv.reader(csv_text(rows).splitlines(keepends=True)))
        self.assertEqual([[cell_text(cell) for cell in row] for row in read], rows)
        for cell in (cell for row in read for cell in row):
            is_number = cell.lstrip("+-").replace(".", "", 1).replace(",", "", 1).replace("e", "", 1).isalnum()
            self.assertTrue(cell[:1] not in ("=", "+", "-", "@") or is_number, cell)

    def test_numbers_stay_numbers(self) -> None:
        self.assertEqual(
            csv_text([("-3.5", "+2", "1e-3", "-1,5", -4.0, "=1+1", "-x")]), "-3.5,+2,1e-3,\"-1,5\",-4.0,'=1+1,'-x\n"
        )


if __name__ == "__main__":
    unittest.main()
