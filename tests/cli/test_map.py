"""``warmeter map`` on logs of many shapes: mapped right or asked, none wrong in silence."""

import contextlib
import io
import json
import unittest
from pathlib import Path
from typing import Any

from warmeter.cli.files import log_lines
from warmeter.cli.main import main
from warmeter.core.home.log_subjects import log_subjects
from warmeter.core.readings.log_proposal import propose_mapping
from warmeter.core.readings.logtable import read
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH
from warmeter.store.codec import home_from_json

LOGS = Path(__file__).parents[1] / "data" / "logs"
TRUTH: dict[str, dict[str, Any]] = json.loads((LOGS / "truth.json").read_text(encoding="utf-8"))


def mapped(path: Path) -> tuple[int, dict[str, Any]]:
    """Return what the command prints for a log, and its exit."""
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        code = main(["map", str(path), "--home", str(LOGS / "home.json"), "--json"])
    return code, json.loads(out.getvalue())


def faults_of(name: str, answer: dict[str, Any]) -> list[str]:
    """Return what a mapping has wrong against its truth: silently wrong, or asked though it is clear."""
    truth, found = TRUTH[name], []
    columns = {c["heading"]: c for c in answer["columns"]}
    for heading, wanted in truth["columns"].items():
        column = columns.get(heading)
        if column is None:
            found.append(f"{heading}: not there, but {sorted(columns)}")
        elif wanted.get("nothing"):
            found += [f"{heading}: taken"] if column["quantity"] or column["asks"] else []
        elif wanted.get("asks"):
            found += [] if column["asks"] else [f"{heading}: sure to be {column['quantity']} {column['subject']}"]
        elif column["asks"]:
            found += [] if wanted.get("may_ask") else [f"{heading}: asked, {column['why']}"]
        else:
            subjects = truth.get("either", {}).get(heading, [wanted["subject"]])
            right = all(column[key] == wanted[key] for key in ("quantity", "unit", "kind") if key in wanted)
            if not right or column["subject"] not in subjects:
                found.append(
                    f"{heading}: wrong, {column['quantity']} {column['unit']} {column['kind']} {column['subject']}"
                )
    found += [f"{c}: sure, in no truth" for c in columns if c not in truth["columns"] and not columns[c]["asks"]]
    return found


class LogsAsTheyCome(unittest.TestCase):
    def test_each_column_is_mapped_right_or_asked(self) -> None:
        self.assertEqual(len(TRUTH), 30)
        for name in TRUTH:
            with self.subTest(name):
                self.assertEqual(faults_of(name, mapped(LOGS / name)[1]), [])

    def test_what_cannot_be_known_of_a_whole_file_is_asked_and_the_exit_says_so(self) -> None:
        for name, truth in TRUTH.items():
            with self.subTest(name):
                code, answer = mapped(LOGS / name)
                self.assertEqual(len(answer["asks"]), len(truth["asks"]))
                self.assertEqual(code, int(bool(answer["asks"]) or any(c["asks"] for c in answer["columns"])))

    def test_what_is_sure_of_a_log_is_imported_as_it_is_proposed(self) -> None:
        home = home_from_json((LOGS / "home.json").read_bytes())
        for name in TRUTH:
            lines = log_lines(LOGS / name)
            mapping = propose_mapping(lines, log_subjects(home)).mapping
            if not mapping.taken:
                continue
            with self.subTest(name):
                for series in read(lines, mapping, LocalClock(home.time_zone)).series:
                    self.assertGreater(series.readings.at_ms.size, 0, series.heading)
                    self.assertEqual(series.left_out, 0, series.heading)

    def test_bills_come_to_their_sums(self) -> None:
        home = home_from_json((LOGS / "home.json").read_bytes())
        for name, truth in TRUTH.items():
            if "total_kwh" not in truth:
                continue
            lines = log_lines(LOGS / name)
            log = read(lines, propose_mapping(lines, log_subjects(home)).suggested, LocalClock(home.time_zone))
            (series,) = [s for s in log.series if s.record.quantity == "grid_import_w"]
            joules = series.readings.in_stored_unit(series.record).value
            with self.subTest(name):
                self.assertAlmostEqual((joules[-1] - joules[0]) / J_PER_KWH, truth["total_kwh"], places=6)


if __name__ == "__main__":
    unittest.main()
