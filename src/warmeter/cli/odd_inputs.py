"""Words, headers and files that no page sends: drawn by seed, for ``warmeter fuzz``."""

import json
import random
from dataclasses import dataclass
from typing import Any

from warmeter.service.homes.demo import demo_home
from warmeter.simulators import demo
from warmeter.store.codec import home_to_json

WORDS = (
    "", " ", "0", "1", "-1", "²", "٣", "1e999", "-1e999", "nan", "inf", "9" * 400, "0x10", "1_000", "1,5", "1.5.5",
    "null", "None", "true", "%00", "\x00", "\u202e", "\ud7ff", "😀" * 90, "x" * 5000, "'", '"', "<b>&amp;", "{{7*7}}", "../../etc",
    "=1+1", "@SUM(A1)", "2026-02-30", "0001-01-01", "9999-12-31", "2026-01-05", "24:00", "99:99", "07:30", "1969-12-31",
    "sail-loft", "rm-loft", "zo-loft", "weir-cottage", "wc-r07", "-0.0", "1e-320", "£", "C", "F", "Europe/London", "UTC+25",
)  # fmt: skip
HEADERS = (
    {"Origin": "http://["}, {"Origin": "null"}, {"Referer": "http://elsewhere.example/"}, {"Cookie": "wm_width=²"},
    {"Cookie": "wm_name=" + "%F0%9F%98%80" * 300}, {"Cookie": "x=" + "y" * 7000}, {"Content-Length": "-5"},
    {"Content-Length": "9" * 30}, {"Host": "elsewhere.example"}, {"Host": ""}, {"HX-Request": "true"}, {"HX-Request": "true"},
    {"X-Window": "w" * 500}, {"Accept": "\x01"}, {"Content-Type": "multipart/form-data"},
    {"Content-Type": "multipart/form-data; boundary="}, {"Content-Type": "application/json"}, {"Transfer-Encoding": "chunked"},
)  # fmt: skip
_ESPI = (
    '<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom" xmlns:e="http://naesb.org/espi"><entry><content>'
    "<e:ReadingType><e:powerOfTenMultiplier>{power}</e:powerOfTenMultiplier><e:uom>72</e:uom></e:ReadingType></content>"
    "</entry><entry><content><e:IntervalBlock><e:interval><e:start>{at}</e:start><e:duration>3600</e:duration></e:interval>"
    "<e:IntervalReading><e:timePeriod><e:duration>900</e:duration><e:start>{at}</e:start></e:timePeriod><e:value>{value}"
    "</e:value></e:IntervalReading></e:IntervalBlock></content></entry></feed>"
)


@dataclass(frozen=True, slots=True)
class Files:
    """Whole files, by kind, that are changed before they are sent."""

    by_kind: dict[str, bytes]


def whole_files() -> Files:
    """Return one file of each kind that is taken somewhere."""
    home = home_to_json(demo_home("terrace-nine"))
    log = demo.room_log_csv().text.splitlines()
    return Files(
        {
            "home": home,
            "log": "\n".join(log[:300]).encode(),
            "machine": "\n".join(demo.machine_log_csv().text.splitlines()[:300]).encode(),
            "espi": _ESPI.format(power=-3, at=1_769_000_000, value=250).encode(),
            "rooms": b"id,name,storey,x0,y0,x1,y1,height_m\n,Attic,Ground,0,0,4,5,2.4\n",
            "long field": b"time,x\n2026-01-05 00:00," + b"1" * 200_000 + b"\n",
        }
    )


def odd_word(rng: random.Random) -> str:
    """Return a word, now and then two of them or a part of one."""
    word = rng.choice(WORDS)
    kind = rng.random()
    return word + rng.choice(WORDS) if kind < 0.1 else word[: rng.randint(0, len(word))] if kind < 0.2 else word


def odd_file(rng: random.Random, files: Files) -> bytes:
    """Return a file with a few of its parts changed."""
    kind = rng.choice(list(files.by_kind))
    data = files.by_kind[kind]
    if kind == "home" and rng.random() < 0.7:
        content = json.loads(data)
        for _ in range(rng.randint(1, 3)):
            _change_somewhere(content, rng)
        return json.dumps(content).encode("utf-8", "surrogatepass")
    if kind == "espi" and rng.random() < 0.7:
        return _ESPI.format(power=odd_word(rng), at=odd_word(rng), value=odd_word(rng)).encode("utf-8", "replace")
    if rng.random() < 0.3:
        return rng.choice(
            (b"", b"[" * 40_000, b'{"a":' * 3000, b"PK\x03\x04" + data[:500], b"\xff\xfe" + data, data * 30)
        )
    changed = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        if not changed:
            break
        at = rng.randrange(len(changed))
        act = rng.random()
        if act < 0.3:
            changed[at] = rng.randrange(256)
        elif act < 0.6:
            changed[at:at] = odd_word(rng).encode("utf-8", "replace")
        elif act < 0.8:
            del changed[at : at + rng.randint(1, 200)]
        else:
            end = min(len(changed), at + rng.randint(1, 200))
            changed[at:at] = changed[at:end]
    return bytes(changed)


def _change_somewhere(content: Any, rng: random.Random) -> None:
    """Change one part of a JSON document in place, however deep."""
    while isinstance(content, dict | list) and content:
        key = rng.choice(list(content)) if isinstance(content, dict) else rng.randrange(len(content))
        inner = content[key]
        if not isinstance(inner, dict | list) or not inner or rng.random() < 0.15:
            content[key] = rng.choice((odd_word(rng), None, rng.choice((-1, 0, 1e300, 2**70)), [], {}, inner))
            return
        content = inner
