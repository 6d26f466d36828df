"""The pages of the work to which something leads."""

from typing import Literal

PageStep = Literal[
    "survey",
    "heating",
    "ducts",
    "sun",
    "water",
    "circuits",
    "devices",
    "tasks",
    "zones",
    "timetable",
    "warmup",
    "signatures",
    "tariff",
    "rules",
    "import_log",
]
