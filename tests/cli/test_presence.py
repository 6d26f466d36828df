"""``warmeter presence`` on files: minute by minute, silence never out, exit codes."""

import contextlib
import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

from tests.homes import small_home
from warmeter.cli.main import main
from warmeter.core.home.devices import Device
from warmeter.core.home.people import Occupant, Witness
from warmeter.store.codec import home_to_json

PHONE = Device(id="phone", name="Ilse telephone", kind="telephone", power="battery")
ILSE = Occupant(id="ilse", name="Ilse", witnesses=(Witness(id="w", kind="telephone", device_ids=("phone",)),))
LOG = """time (UTC),Ilse telephone
2026-01-14T08:00:00Z,home
2026-01-14T09:00:00Z,away
2026-01-14T10:00:00Z,away
2026-01-15T06:00:00Z,home
"""


class Files(unittest.TestCase):
    def run_on(self, log: str, *more: str) -> tuple[int, str]:
        home = replace(small_home(), devices=(PHONE,), people=(ILSE,))
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "h.json").write_bytes(home_to_json(home))
            (Path(folder) / "l.csv").write_text(log, encoding="utf-8")
            told = io.StringIO()
            with contextlib.redirect_stdout(told), contextlib.redirect_stderr(io.StringIO()):
                code = main(["presence", "--home", f"{folder}/h.json", "--log", f"{folder}/l.csv", *more])
        return code, told.getvalue()

    def test_each_minute_has_a_state_and_a_telephone_that_fell_silent_is_not_known(self) -> None:
        code, text = self.run_on(LOG, "--json")
        answer: Any = json.loads(text)
        self.assertEqual((code, answer["step_s"], answer["minutes"]), (0, 60, 22 * 60 + 1))
        ilse = answer["persons"][0]["state"]
        self.assertEqual((ilse[0], ilse[59], ilse[60]), ("in", "in", "out"))
        # Its last word of 10:00 stands for eight hours.
        self.assertEqual((ilse[599], ilse[600], ilse[-1]), ("out", "not_known", "in"))
        self.assertEqual(answer["home"], ilse)
        self.assertEqual(answer["persons"][0]["witnesses"][0]["learnt"], False)

    def test_in_words_it_says_shares_and_trust(self) -> None:
        code, text = self.run_on(LOG)
        self.assertEqual(code, 0)
        self.assertIn("Ilse: in 4.6%", text)
        self.assertIn("trusted 0.90 in, 0.90 out", text)

    def test_what_tells_nothing_is_told_apart_from_bad_input(self) -> None:
        self.assertEqual(self.run_on("time (UTC),Study temperature (°C)\n2026-01-14T08:00:00Z,20.1\n")[0], 1)
        self.assertEqual(self.run_on("nothing at all\n")[0], 2)


if __name__ == "__main__":
    unittest.main()
