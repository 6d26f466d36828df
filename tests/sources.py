"""Sources of the project as syntax trees, each parsed once a run."""

import ast
from functools import cache
from pathlib import Path


@cache
def tree_of(path: Path) -> ast.Module:
    """Return a file's syntax tree."""
    return ast.parse(path.read_text(encoding="utf-8"))
