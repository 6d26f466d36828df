"""A picture as a file: the page's own styles put inside, so that it looks the same anywhere."""

import re
from functools import cache
from pathlib import Path

from fastapi.responses import Response

from warmeter.web.page import STYLES, TEMPLATES

STATIC = Path(__file__).parents[1] / "static" / "css"
_RULE = re.compile(r"([^{}]+)\{([^{}]*)\}")
_USED = tuple(
    f".{name}"
    for name in [
        "wm-plan",
        "wm-wiring",
        "wm-room",
        "wm-outer",
        "wm-inner",
        "wm-hole",
        "wm-opening",
        "wm-item",
        "wm-dev",
        "wm-loss",
        "wm-gives",
        "wm-label",
        "wm-rad",
        "wm-serp",
        "wm-thing",
        "wm-pipe",
        "wm-flag",
        "wm-ruler",
        "wm-dim",
        "wm-below",
        "wm-ground",
        "wm-end",
        "wm-mid",
        "wm-halo",
        "wm-edge",
        "wm-brk",
        "wm-lane-rule",
        "wm-ownline",
        "wm-wire",
        "wm-pin",
        "wm-node",
        "wm-fight",
        "wm-zonerow",
        "wm-il",
        "wm-hl",
        "wm-hx",
    ]
)


@cache
def _styles() -> str:
    """Return the rules that pictures use, every colour and face resolved as by day."""
    tokens = (STATIC / "tokens.css").read_text(encoding="utf-8")
    roles = dict(re.findall(r"(--wm-[\w-]+):([^;}]+)[;}]", tokens.split("/* ---------- roles: night")[0]))
    rules = []
    looks = "".join((STATIC / f"{name}.css").read_text(encoding="utf-8") for name in STYLES)
    for selector, body in _RULE.findall(tokens + looks):
        names = [name.strip() for name in selector.split("*/")[-1].split(",")]
        if any(name.startswith(_USED) for name in names) and not any(":hover" in name for name in names):
            rules.append(f"{','.join(names)}{{{' '.join(_resolved(body, roles).split())}}}")
    return "".join(rules)


def _resolved(body: str, roles: dict[str, str]) -> str:
    for _ in range(3):
        body = re.sub(r"var\((--wm-[\w-]+)\)", lambda m: roles.get(m.group(1), "inherit").strip(), body)
    return body


def svg_file(svg: str, name: str) -> Response:
    """Return an SVG with styles and hatching inside, handles left out, to be saved under a name."""
    hatch = str(TEMPLATES.get_template("_hatch.svg").render())
    patterns = "".join(re.findall(r"<defs>.*?</defs>", hatch, re.DOTALL)).replace("var(--wm-power)", "#B07A1E")
    plain = re.sub(r'<rect class="wm-hnd[^>]*/>', "", svg)
    head, tail = plain.split(">", 1)
    inside = f"{head}><style>{_styles()}</style>{patterns}{tail}"
    return Response(
        inside, media_type="image/svg+xml", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
