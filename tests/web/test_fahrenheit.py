"""A home in °F and feet speaks of nothing else: every page of the demo homes is read for °C, kelvins and metres."""

import re
import unittest
from dataclasses import replace
from html import unescape
from typing import ClassVar

from fastapi.testclient import TestClient

from tests.served import fresh_app
from warmeter.core.edits.edit import Apply
from warmeter.service.app import App, Person
from warmeter.service.homes.demo import load_demo
from warmeter.service.homes.editing import edit_home
from warmeter.store.codec import home_to_json
from warmeter.web.app import create_app

# A number in °C, or a difference in K; not W/K, 1/K or an initial.
CELSIUS = re.compile(r"[^<>\n]{0,70}(?:°C|K·h|(?<=[\d,] )K(?![\w·/².]))[^<>\n]{0,30}")
# A length, area or volume in metres or litres, and fields that ask for one; not a U-value's W/m²K or a flow's m³/h. A working
# shows the method's own units.
METRES = re.compile(
    r"[^<>\n]{0,70}(?:(?<=[\d] )m[²³]?(?![\w·/²³])|, m[²³]?(?= ?$)|(?<=\n) ?m[²³](?=\n)|(?<=[\d] )L(?![\w'])|\bL/h)"
    r"[^<>\n]{0,30}",
    re.MULTILINE,
)
# A log's own unit as it was read in, formulas of methods, and shares for each kelvin outdoors.
APART = ("temperature, °C", "forecast, °C", "distance from home, m", "(Φ/ΦN)", "ΦN (Δθ", "by outdoor K")
NOT_PAGES = re.compile(
    r"undo|redo|\.json|\.svg|\.csv|\.ics|archive|stored|schema|revisions|from=|low=|import|cycle=|take-away|key=|slot=|day=20|back="
)


def words_of(body: str) -> str:
    """Return what a page shows and what it tells by its titles and labels, each in a line of its own."""
    for part in ("script", "style", "defs", "dialog"):
        body = re.sub(rf"<{part}[\s>].*?</{part}>", "", body, flags=re.DOTALL)
    told = re.findall(r'(?:title|aria-label|placeholder)="([^"]*)"', body)
    return unescape("\n".join([re.sub(r"<[^>]+>", "\n", body), *told])).replace("\u2009", "")


class Fahrenheit(unittest.TestCase):
    maxDiff = None
    app: ClassVar[App]
    client: ClassVar[TestClient]

    @classmethod
    def setUpClass(cls) -> None:
        cls.app = fresh_app()
        load_demo(cls.app)
        for line in cls.app.homes.lines():
            _, revision = cls.app.homes.load(line.id)
            command = Apply(change=lambda home: replace(home, temperature_unit="F", length_unit="ft"), summary="In °F")
            edit_home(cls.app, line.id, revision, Person("Ann"), command)
        cls.client = TestClient(create_app(cls.app), base_url="http://127.0.0.1:8470")

    def test_what_was_left_over_would_be_seen(self) -> None:
        for planted in (
            "<p>guards at 6 °C, its zone</p>",
            '<i title="0.5 K under">',
            "<label>Gap, K</label>",
            "<td>3 K·h",
        ):
            self.assertTrue(CELSIUS.findall(words_of(planted)), planted)
        for planted in (
            "<p>Kitchen, 15.1 m²</p>",
            "<label>Height, m<input></label>",
            "<p>1.2 m high</p>",
            "<i>160 L</i>",
            "<th>L/h</th>",
        ):
            self.assertTrue(METRES.findall(words_of(planted)), planted)
        for sound in ("<td>35 W/K</td>", "<p>68 °F</p>", "<p>by K. Reed</p>"):
            self.assertFalse(CELSIUS.findall(words_of(sound)), sound)

    def pages(self, home_id: str) -> dict[str, str]:
        """Return a home's pages by address: of each route, pane and kind of thing chosen three."""
        seen: dict[str, int] = {}
        found: dict[str, str] = {}
        todo = [f"/homes/{home_id}/survey"]
        while todo:
            path = todo.pop(0)
            like = re.sub(r"(at|rule|room|machine|zone|storey)=[^&]*|[\w.-]+$", r"\1", path)
            if path in found or seen.get(like, 0) >= 3:
                continue
            seen[like] = seen.get(like, 0) + 1
            answer = self.client.get(path)
            if answer.status_code == 422:
                continue  # a working that cannot be known
            self.assertEqual(answer.status_code, 200, path)
            if "html" not in answer.headers["content-type"]:
                continue
            found[path] = answer.text
            for link in re.findall(r'(?:href|hx-get)="([^"#]+)"', answer.text):
                whole = unescape(link)
                whole = path.split("?")[0] + whole if whole.startswith("?") else whole
                if whole.startswith(f"/homes/{home_id}/") and not NOT_PAGES.search(whole):
                    todo.append(whole)
        return found

    def test_no_page_says_celsius_or_kelvin(self) -> None:
        left: set[str] = set()
        count = 0
        for line in self.app.homes.lines():
            # What a person wrote stays as it was written.
            own = home_to_json(self.app.homes.load(line.id)[0]).decode()
            for path, body in self.pages(line.id).items():
                count += 1
                left |= {
                    f"{path}: {told.strip()}"
                    for told in METRES.findall(words_of(body))
                    if "/working/" not in path and not any(apart in told for apart in APART)
                }
                for told in CELSIUS.findall(words_of(body)):
                    number = re.search(r"[^“”]*(?:°C|K)", told)
                    phrase = number.group(0)[-16:] if number else told
                    if phrase not in own and not any(apart in told for apart in APART):
                        left.add(f"{path}: {told.strip()}")
        self.assertGreater(count, 120)
        self.assertEqual("\n".join(sorted(left)), "")


if __name__ == "__main__":
    unittest.main()
