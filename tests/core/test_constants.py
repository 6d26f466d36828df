"""Every tuned number of the core stands in docs/constants.md: none is changed unseen."""

import ast
import importlib
import io
import re
import tokenize
import unittest
from collections.abc import Iterator
from pathlib import Path

import warmeter.core

CORE = Path(warmeter.core.__path__[0])
PAGE = Path(__file__).resolve().parents[2] / "docs" / "constants.md"
ROW = re.compile(r"^\| `(?P<name>[\w.]+)` \| (?P<value>.*?) \|", re.MULTILINE)


def numbers_in(expression: ast.expr) -> Iterator[int | float]:
    """Yield the numbers of an expression in the order in which they are written, with their signs."""
    if isinstance(expression, ast.UnaryOp) and isinstance(expression.op, ast.USub):
        yield from (-number for number in numbers_in(expression.operand))
    elif isinstance(expression, ast.Constant):
        if type(expression.value) in (int, float):
            yield expression.value  # type: ignore[misc]
    else:
        for child in ast.iter_child_nodes(expression):
            if isinstance(child, ast.expr):
                yield from numbers_in(child)
            elif isinstance(child, ast.keyword):
                yield from numbers_in(child.value)


def value_told(expression: ast.expr, value: object) -> str:
    """Return what a constant is worth: its value if it is a number, else the numbers that are written in it."""
    if type(value) in (int, float):
        return repr(value)
    return ", ".join(repr(number) for number in numbers_in(expression))


def assigned(statements: list[ast.stmt]) -> Iterator[tuple[ast.stmt, str, ast.expr]]:
    """Yield each assignment that holds a number: the statement, the name, and what is assigned; of classes' fields too."""
    for statement in statements:
        if isinstance(statement, ast.ClassDef):
            yield from ((each, f"{statement.name}.{name}", value) for each, name, value in assigned(statement.body))
        targets = statement.targets if isinstance(statement, ast.Assign) else []
        if isinstance(statement, ast.AnnAssign):
            targets = [statement.target]
        value = getattr(statement, "value", None)
        if len(targets) != 1 or value is None:
            continue
        pairs = [(targets[0], value)]
        if isinstance(targets[0], ast.Tuple) and isinstance(value, ast.Tuple):
            pairs = list(zip(targets[0].elts, value.elts, strict=True))
        for target, each in pairs:
            if isinstance(target, ast.Name) and any(True for _ in numbers_in(each)):
                yield statement, target.id, each


def constants() -> Iterator[tuple[str, str, str, str]]:
    """Yield each constant of the core: its module under the core, name, value, and the comment beside or above it."""
    for path in sorted(CORE.rglob("*.py")):
        source = path.read_text(encoding="utf-8")
        dotted = ".".join(path.relative_to(CORE).with_suffix("").parts)
        comments = {
            token.start[0]: (token.string.lstrip("# "), token.line.strip().startswith("#"))
            for token in tokenize.generate_tokens(io.StringIO(source).readline)
            if token.type == tokenize.COMMENT
        }
        module = importlib.import_module(f"warmeter.core.{dotted}")
        for statement, name, expression in assigned(ast.parse(source).body):
            told: list[str] = []
            line = statement.lineno - 1
            while line in comments and comments[line][1]:
                told.insert(0, comments[line][0])
                line -= 1
            beside, _ = comments.get(statement.lineno, ("", False))
            comment = (beside or " ".join(told)).replace("|", "\\|")
            yield dotted, name, value_told(expression, getattr(module, name, None)), comment


class ConstantsOfTheCore(unittest.TestCase):
    def test_each_stands_in_the_document_with_its_value(self) -> None:
        documented = {m["name"]: m["value"] for m in ROW.finditer(PAGE.read_text(encoding="utf-8"))}
        found = {f"{module}.{name}": value for module, name, value, _ in constants()}
        self.assertGreater(len(found), 200)
        differing = {name: value for name, value in found.items() if documented.get(name) != value}
        self.assertEqual(differing, {}, "write these values into docs/constants.md, and say why in the commit")
        self.assertEqual(set(documented) - set(found), set(), "these are no longer there")


if __name__ == "__main__":
    unittest.main()
