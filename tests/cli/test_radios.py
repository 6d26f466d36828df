"""``warmeter radios``: the answer as JSON, what its exit code says, and what it refuses with the place."""

import json
import unittest
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from pathlib import Path
from tempfile import TemporaryDirectory

from warmeter.cli.main import main
from warmeter.core.timegrid import from_ms
from warmeter.simulators.radio_capture import radio_scene


class RadiosCommand(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.scene = radio_scene(911, 8, hours=8, changes_battery=True)
        (self.folder / "c.jsonl").write_text("\n".join(self.scene.lines) + "\nnonsense\n", encoding="utf-8")

    def run_with(self, seen: object | None, capture: str = "c.jsonl") -> tuple[int, dict[str, object], str]:
        """Run it with what was seen; return its exit code, its answer and what it complained of."""
        words = ["radios", "--capture", str(self.folder / capture), "--json"]
        if seen is not None:
            (self.folder / "seen.json").write_text(json.dumps(seen), encoding="utf-8")
            words += ["--seen", str(self.folder / "seen.json")]
        out, err = StringIO(), StringIO()
        with redirect_stdout(out), redirect_stderr(err):
            code = main(words)
        return code, json.loads(out.getvalue()) if out.getvalue().strip() else {}, err.getvalue()

    def readings(self) -> list[dict[str, object]]:
        return [
            {"time": from_ms(at).isoformat(), "value": value, "channel": self.scene.channel}
            for at, value in self.scene.readings
        ]

    def test_ones_own_and_its_follower_are_named(self) -> None:
        code, answer, _ = self.run_with({"readings": self.readings(), "silent": self.scene.own})
        self.assertEqual((code, answer["best"], answer["successor"]), (0, self.scene.own, self.scene.successor))
        self.assertEqual(answer["refused_n"], 1)
        posterior = answer["posterior"]
        assert isinstance(posterior, list)
        self.assertAlmostEqual(sum(each["p"] for each in posterior), 1.0, places=6)

    def test_what_is_not_sure_exits_with_one_and_nothing_asked_with_nought(self) -> None:
        code, answer, _ = self.run_with({"readings": [{"time": "2030-01-01T00:00:00Z", "value": 20}]})
        self.assertEqual((code, answer["best"]), (1, None))
        code, answer, _ = self.run_with(None)
        self.assertEqual(code, 0)
        self.assertNotIn("best", answer)

    def test_fahrenheit_is_understood(self) -> None:
        typed = [{**each, "value": float(str(each["value"])) * 1.8 + 32, "unit": "°F"} for each in self.readings()]
        self.assertEqual(self.run_with({"readings": typed})[1]["best"], self.scene.own)

    def test_bad_input_says_what_and_where(self) -> None:
        (self.folder / "empty.jsonl").write_text("[]\n", encoding="utf-8")
        for seen, capture, words in (
            ({"readings": [{"time": "noon", "value": 20}]}, "c.jsonl", "noon"),
            ({"readings": [{"time": 0, "value": "20"}]}, "c.jsonl", "readings.0.value"),
            ({"reading": []}, "c.jsonl", "reading"),
            ({"silent": "nobody"}, "c.jsonl", "nothing of nobody"),
            ({"readings": [{"time": 0, "value": 20, "unit": "m"}]}, "c.jsonl", "m"),
            (None, "empty.jsonl", "no message: no JSON object"),
            (None, "none.jsonl", "none.jsonl"),
        ):
            with self.subTest(words):
                code, _, said = self.run_with(seen, capture)
                self.assertEqual(code, 2)
                self.assertIn(words, said)
