"""Worked examples run against the core, by section of docs/methods: adapters call what screens and commands use."""

from typing import Any

from warmeter.core.timegrid import from_ms

Case = dict[str, Any]


def utc_text(at_ms: int) -> str:
    """Return an instant as ISO 8601 with Z, to the second."""
    return from_ms(at_ms).strftime("%Y-%m-%dT%H:%M:%SZ")
