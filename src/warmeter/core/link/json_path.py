"""A single value of a JSON text by its path (RFC 9535: names and places, no filters)."""

import json
from functools import lru_cache
from typing import Any

from warmeter.core.errors import ReadingError

MAXIMUM_STEPS = 12


@lru_cache(maxsize=256)
def path_steps(path: str) -> tuple[str | int, ...]:
    """Return the steps of a path such as ``$.climate.temperature``, ``sensors[0].t`` or ``$['a.b']``.

    Raises
    ------
    ReadingError
        If it is no path of names and places.
    """
    text, steps = path.strip().removeprefix("$"), list[str | int]()
    if not path.strip().startswith("$") and text and text[0] not in ".[":
        text = "." + text
    while text:
        if text.startswith("["):
            inside, closed, text = text[1:].partition("]")
            quote = inside[:1]
            if not closed:
                raise ReadingError(f"in the path {path!r} a bracket is not closed")
            if quote in ("'", '"') and len(inside) > 2 and inside.endswith(quote):
                steps.append(inside[1:-1])
            elif inside.isdecimal() and len(inside) <= 4:
                steps.append(int(inside))
            else:
                raise ReadingError(f"in the path {path!r} a bracket holds a place such as [0] or a name such as ['t']")
        elif text.startswith("."):
            ends = [k for k in (text.find(".", 1), text.find("[", 1)) if k > 0]
            end = min(ends, default=len(text))
            if end == 1:
                raise ReadingError(f"in the path {path!r} a name is missing after a dot")
            steps.append(text[1:end])
            text = text[end:]
        else:
            raise ReadingError(f"the path {path!r} is not understood from {text!r} on")
    if len(steps) > MAXIMUM_STEPS:
        raise ReadingError(f"a path has at most {MAXIMUM_STEPS} steps")
    return tuple(steps)


def value_at(document: Any, steps: tuple[str | int, ...]) -> Any:
    """Return what stands in a document at a path.

    Raises
    ------
    ReadingError
        If nothing stands there; it names the step.
    """
    found = document
    for step in steps:
        is_there = (
            isinstance(found, dict) and step in found
            if isinstance(step, str)
            else isinstance(found, list) and step < len(found)
        )
        if not is_there:
            raise ReadingError(f"the message has no {step!r}")
        found = found[step]
    return found


def read_json(text: str) -> Any:
    """Return what a JSON text holds; not-a-number and infinity are refused.

    Raises
    ------
    ReadingError
        If it is no JSON, or nests too deep.
    """
    try:
        return json.loads(text, parse_constant=_refuse)
    except (ValueError, RecursionError) as error:
        raise ReadingError("the message is no JSON that can be read") from error


def _refuse(word: str) -> Any:
    raise ValueError(word)


def paths_of(document: Any, most: int = 40) -> list[tuple[str, object]]:
    """Return the paths of a document that lead to a number, a word or a yes or no, with what stands there."""
    found: list[tuple[str, object]] = []
    waiting: list[tuple[str, Any, int]] = [("$", document, 0)]
    while waiting and len(found) < most:
        path, value, depth = waiting.pop(0)
        if isinstance(value, dict) and depth < MAXIMUM_STEPS:
            waiting += [(path + _step(key), each, depth + 1) for key, each in list(value.items())[:most]]
        elif isinstance(value, list) and depth < MAXIMUM_STEPS:
            waiting += [(f"{path}[{k}]", each, depth + 1) for k, each in enumerate(value[:8])]
        elif isinstance(value, str | int | float) and not isinstance(value, list):
            found.append((path, value))
    return found


def _step(key: str) -> str:
    is_plain = key.replace("_", "a").isalnum()
    return f".{key}" if is_plain else f"['{key}']"
