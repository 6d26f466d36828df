"""Sentences that name a step: the step is a link, and the page behind it leads back."""

from fastapi import Request
from markupsafe import Markup, escape

from warmeter.web.links import link
from warmeter.web.page import here, in_page_unit

# The longer name first: "Survey, Heating" is no "Survey".
STEPS = (
    ("Survey, Heating", "heating"),
    ("Survey, Devices", "devices"),
    ("Survey, Logs", "record"),
    ("Survey", "survey"),
    ("Heating", "heating"),
    ("Ducts", "ducts"),
    ("Sun", "sun"),
    ("Water", "water"),
    ("Circuits", "circuits"),
    ("Devices", "devices"),
    ("Work", "tasks"),
    ("Zones", "zones"),
    ("Timetable", "timetable"),
    ("Warm-up", "warmup"),
    ("Signatures", "signatures"),
    ("Tariff", "tariff"),
    ("Rules", "rules"),
)


def led(request: Request, home_id: str, words: object) -> Markup:
    """Return a sentence in which each "under Tariff" and the like leads there and back, and "Import ..." to the import."""
    text = escape(str(in_page_unit(words)))
    for name, route in STEPS:
        text = _linked(text, Markup("under "), name, link(route, home_id, back=here(request)))
    if text.startswith("Import ") or ". Import " in text:
        text = _linked(
            text,
            Markup("") if text.startswith("Import ") else Markup(". "),
            "Import",
            link("import_log", home_id, back=here(request)),
        )
    return text


def _linked(text: Markup, before: Markup, name: str, url: str) -> Markup:
    left, found, right = text.partition(before + name)
    return left + before + Markup('<a href="{}">{}</a>').format(url, name) + right if found else text
