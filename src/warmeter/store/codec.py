"""Documents to bytes and back: JSON by the core's own classes, compressed."""

import json
from dataclasses import fields
from functools import cache, lru_cache
from typing import Any

import numpy as np
import zstandard
from pydantic import TypeAdapter, ValidationError

from warmeter.core.errors import HomeError
from warmeter.core.home.document import FORMAT, Home
from warmeter.core.home.upgrade import upgraded
from warmeter.core.thermal.room_fit import Balance, Doubt, Estimate, RoomFit, StoredFit
from warmeter.core.thermal.survey import RoomRc


@cache
def home_adapter() -> TypeAdapter[Home]:
    """Return the validator and serialiser of a home's document."""
    return TypeAdapter(Home)


MOST_TOLD = 5


def places_told(error: ValidationError) -> list[str]:
    """Return what cannot be read, each with its place, a few at most.

    A part is one of several kinds: that it is none of the others is no news.
    """
    other = ("missing", "literal_error", "unexpected_keyword_argument", "extra_forbidden", "dataclass_type")
    rows = error.errors()
    found = [row for row in rows if row["type"] not in other] or rows
    inner = [row["loc"] for row in found]
    found = [
        row for row in found if not any(loc != row["loc"] and loc[: len(row["loc"])] == row["loc"] for loc in inner)
    ]
    told: dict[str, str] = {}
    for row in found:
        place = ".".join(str(part) for part in row["loc"] if not str(part)[:1].isupper())
        told.setdefault(place, f"{place or 'this part'}: {row['msg'][:1].lower()}{row['msg'][1:]}")
    return list(told.values())[:MOST_TOLD]


def stored_home(home: Home) -> bytes:
    """Return a home as it is stored, having read it back: what cannot be opened again is not stored.

    Raises
    ------
    HomeError
        With the places that could not be read.
    """
    text = home_to_json(home)
    try:
        home_adapter().validate_json(text, strict=True)
    except ValidationError as error:
        raise HomeError(f"{'; '.join(places_told(error))}; nothing was changed") from error
    return pack(text)


def home_to_json(home: Home, *, indent: int | None = None) -> bytes:
    """Return a home as JSON; exact decimals are strings."""
    return home_adapter().dump_json(home, indent=indent)


def home_from_json(text: bytes | str) -> Home:
    """Return the home of a JSON document of any known format.

    Raises
    ------
    ValueError
        If a field is unknown, missing or of the wrong type (with its place), or the format is not known.
    """
    raw = text.encode() if isinstance(text, str) else text
    # The present format is read as it is; only an older one is taken apart to be brought up to date.
    if f'"{FORMAT}"'.encode() not in raw[-200:]:
        raw = _brought_up_to_date(raw)
    return home_adapter().validate_json(raw, strict=True)


def _brought_up_to_date(raw: bytes) -> bytes:
    """Return a document of any known format in the present one; ``HomeError`` if its parts are not as their format has them."""
    try:
        content = json.loads(raw)
        if not isinstance(content, dict):
            raise HomeError("this is no JSON of a home: its outermost part is not an object; nothing was changed")
        return json.dumps(upgraded(content)).encode()
    except (KeyError, TypeError, AttributeError, IndexError, RecursionError) as error:
        raise HomeError(
            f"this document's parts are not as its format has them ({type(error).__name__}: {error})"
        ) from error


@lru_cache(maxsize=16)
def home_from_packed(data: bytes) -> Home:
    """Return the home of a stored document; the last few are kept, since homes do not change."""
    return home_from_json(unpack(data))


def pack(data: bytes) -> bytes:
    """Compress bytes."""
    return zstandard.compress(data, 3)


def unpack(data: bytes) -> bytes:
    """Undo ``pack``."""
    return zstandard.decompress(data)


@cache
def _plain_adapter() -> TypeAdapter[dict[str, Any]]:
    return TypeAdapter(dict[str, Any])


def fit_to_bytes(fit: RoomFit, log_start_ms: int, step_s: float) -> bytes:
    """Return a fit as compressed JSON."""
    content = {f.name: getattr(fit, f.name) for f in fields(fit)}
    content["fitted_c"] = [None if np.isnan(v) else v for v in fit.fitted_c.tolist()]
    content |= {"log_start_ms": log_start_ms, "step_s": step_s}
    return pack(_plain_adapter().dump_json(content))


def fit_from_bytes(data: bytes, *, at_ms: int, revision: int) -> StoredFit:
    """Undo ``fit_to_bytes``."""
    content = _plain_adapter().validate_json(unpack(data))
    start, step = content.pop("log_start_ms"), content.pop("step_s")
    for name in (
        "loss_w_k",
        "air_j_k",
        "fabric_j_k",
        "air_fabric_w_k",
        "slow_s",
        "fast_s",
        "emitter_lag_s",
        "gain_w",
        "sun_m2",
    ):
        content[name] = Estimate(**content[name]) if content[name] else None
    content["rooms"] = tuple(RoomRc(**room) for room in content["rooms"])
    content["balance"] = Balance(**content["balance"])
    content["fitted_c"] = np.array([np.nan if v is None else v for v in content["fitted_c"]])
    for name in ("gains_w", "suns_m2"):
        content[name] = tuple(content[name])
    content["candidates"] = tuple((name, error) for name, error in content["candidates"])
    # Fits stored before doubts were looked for have none.
    content["doubts"] = tuple(Doubt(**doubt) for doubt in content.get("doubts", ()))
    content["narrowing"] = tuple((days, half) for days, half in content.get("narrowing", ()))
    return StoredFit(fit=RoomFit(**content), log_start_ms=start, step_s=step, at_ms=at_ms, revision=revision)
