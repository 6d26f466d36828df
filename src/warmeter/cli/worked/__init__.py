"""Worked examples run against the core, by section of docs/methods."""

from typing import Any

Case = dict[str, Any]
