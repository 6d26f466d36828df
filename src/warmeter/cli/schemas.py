"""The published schemas of a home, of rules and of tariffs, written anew (``warmeter schemas DIR``)."""

import argparse
import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from warmeter.core.home.document import FORMAT as HOME_FORMAT
from warmeter.core.home.tariffs import TARIFF_FORMAT
from warmeter.service.rules.rules_file import FORMAT as RULES_FORMAT
from warmeter.service.rules.rules_file import rules_adapter
from warmeter.service.tariffs.tariff_file import tariff_adapter
from warmeter.store.codec import home_adapter


def run(options: argparse.Namespace) -> int:
    """Write the schema of each format of today into a folder, and say which changed."""
    adapters: dict[str, TypeAdapter[Any]] = {
        HOME_FORMAT: home_adapter(),
        RULES_FORMAT: rules_adapter(),
        TARIFF_FORMAT: tariff_adapter(),
    }
    for name, adapter in adapters.items():
        path = Path(options.folder) / f"{name.replace('/', '-')}.schema.json"
        text = json.dumps(adapter.json_schema(), indent=1, ensure_ascii=False) + "\n"
        is_same = path.is_file() and path.read_text(encoding="utf-8") == text
        path.write_text(text, encoding="utf-8")
        print(f"{path}: {'as it was' if is_same else 'written'}")
    return 0
