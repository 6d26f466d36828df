"""Tariffs as JSON files: read with the place of each error, and written."""

import json
from functools import cache

from pydantic import TypeAdapter, ValidationError

from warmeter.core.errors import TariffError
from warmeter.core.home.tariffs import TARIFF_FORMAT, TariffFile
from warmeter.store.codec import places_told


@cache
def tariff_adapter() -> TypeAdapter[TariffFile]:
    """Return the validator and serialiser of a file of tariffs."""
    return TypeAdapter(TariffFile)


def tariffs_from_json(text: bytes | str) -> TariffFile:
    """Return the tariffs of a file; ``TariffError`` with the places that cannot be read."""
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise TariffError(f"this is no JSON ({error})") from error
    if not isinstance(content, dict) or content.get("format") != TARIFF_FORMAT:
        said = content.get("format") if isinstance(content, dict) else None
        raise TariffError(f"this is no file of tariffs: its format must be {TARIFF_FORMAT!r} (it says {said!r})")
    try:
        return tariff_adapter().validate_json(text, strict=True)
    except ValidationError as error:
        raise TariffError("; ".join(places_told(error))) from error


def tariffs_to_json(file: TariffFile) -> bytes:
    """Return tariffs as a JSON file; exact decimals are strings."""
    return tariff_adapter().dump_json(file, indent=1)
