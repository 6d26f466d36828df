"""Rules of the house: imports point one way, the core is pure, names are not used twice."""

import ast
import doctest
import importlib
import pkgutil
import unittest
from pathlib import Path

import warmeter

ROOT = Path(warmeter.__file__).parent
# Which packages a package may import; inside the core, which rooms a room may.
MAY = {
    "core": {"core"},
    "store": {"core", "store"},
    "standins": {"core", "standins"},
    "service": {"core", "store", "standins", "service"},
    "web": {"core", "store", "service", "web"},
    "cli": {"core", "store", "standins", "service", "web", "cli"},
}
GROUND = {"errors", "quantity", "units", "timegrid", "finding", "figure", "claims", "readings"}
TARIFF = GROUND | {"tariff"}
CORE_MAY = {
    "claims": GROUND,
    "readings": GROUND,
    "tariff": TARIFF,
    "signature": GROUND | {"signature"},
    "saving": GROUND | {"saving"},
    "water": GROUND | {"water"},
    "weather": GROUND | {"weather"},
    "thermal": GROUND | {"thermal"},
    "emitters": GROUND,
    "sensing": GROUND,
    "plan": GROUND | {"plan"},
    "home": TARIFF | {"thermal", "plan", "sensing", "emitters", "home"},
    "rule": GROUND | {"home", "claims", "timetable", "sensing", "weather", "rule"},
    "building": TARIFF | {"thermal", "plan", "sensing", "emitters", "home", "weather", "timetable", "building"},
    "timetable": GROUND | {"home", "timetable"},
    "warmup": GROUND | {"home", "thermal", "timetable", "weather", "warmup"},
}
IMPURE = {
    "time",
    "random",
    "os",
    "pathlib",
    "socket",
    "logging",
    "subprocess",
    "sqlalchemy",
    "fastapi",
    "pydantic",
    "jinja2",
    "pymysql",
    "starlette",
    "io",
    "tempfile",
    "threading",
}


def imports_of(path: Path) -> set[str]:
    """Return every module that a file imports, also inside functions."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


class Imports(unittest.TestCase):
    def test_packages_point_one_way(self) -> None:
        for path in ROOT.rglob("*.py"):
            parts = path.relative_to(ROOT).parts
            if len(parts) == 1:
                continue
            self.assertIn(parts[0], MAY, f"write a row for the new package {parts[0]}")
            for name in imports_of(path):
                words = name.split(".")
                if words[0] == "warmeter" and len(words) > 1:
                    with self.subTest(path=str(path), imports=name):
                        self.assertIn(words[1], MAY[parts[0]])

    def test_rooms_of_the_core_point_one_way(self) -> None:
        for path in (ROOT / "core").rglob("*.py"):
            parts = path.relative_to(ROOT / "core").parts
            allowed = CORE_MAY.get(parts[0], GROUND)
            if len(parts) > 1:
                self.assertIn(parts[0], CORE_MAY, f"write a row for the new room {parts[0]}")
            for name in imports_of(path):
                words = name.split(".")
                if words[:2] == ["warmeter", "core"] and len(words) > 2:
                    with self.subTest(path=str(path), imports=name):
                        self.assertIn(words[2], allowed)

    def test_core_knows_no_clock_file_network_or_chance(self) -> None:
        for path in (ROOT / "core").rglob("*.py"):
            with self.subTest(str(path)):
                self.assertFalse({name.split(".")[0] for name in imports_of(path)} & IMPURE)
                self.assertNotIn("np.random", path.read_text(encoding="utf-8"))

    def test_sqlalchemy_is_used_in_the_store_and_opened_by_the_service_only(self) -> None:
        for path in ROOT.rglob("*.py"):
            if path.relative_to(ROOT).parts[0] in ("core", "web", "standins", "cli"):
                self.assertFalse({n for n in imports_of(path) if n.startswith("sqlalchemy")}, str(path))

    def test_no_import_hides_in_a_function(self) -> None:
        for path in ROOT.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.FunctionDef):
                    hidden = [n for n in ast.walk(node) if isinstance(n, ast.Import | ast.ImportFrom)]
                    self.assertFalse(hidden, f"{path}:{node.lineno}")


class Installed(unittest.TestCase):
    def test_the_application_needs_only_what_its_own_lock_installs(self) -> None:
        project = ROOT.parents[1]
        locks = {
            name: {
                line.split("==")[0].lower()
                for line in (project / "requirements" / f"{name}.lock").read_text().splitlines()
                if "==" in line
            }
            for name in ("app", "test")
        }
        tests_only = {name.replace("-", "_") for name in locks["test"] - locks["app"]}
        self.assertIn("playwright", tests_only)
        for path in ROOT.rglob("*.py"):
            # Pictures are taken with the browser that the tests use; main loads that module when asked.
            if path.name != "shots.py":
                self.assertFalse({n.split(".")[0] for n in imports_of(path)} & tests_only, str(path))
        self.assertFalse({n for n in imports_of(ROOT / "cli" / "main.py") if n.endswith("shots")})


class Names(unittest.TestCase):
    def test_no_file_name_stands_twice_in_the_core(self) -> None:
        names = [p.name for p in (ROOT / "core").rglob("*.py") if p.name != "__init__.py"]
        self.assertEqual(sorted(names), sorted(set(names)))

    def test_no_module_is_called_after_nothing(self) -> None:
        for path in ROOT.rglob("*.py"):
            self.assertNotIn(path.stem, {"utils", "helpers", "common", "manager", "base", "misc"})

    def test_public_functions_and_classes_say_what_they_do(self) -> None:
        for path in ROOT.rglob("*.py"):
            tree = ast.parse(path.read_text(encoding="utf-8"))
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    self.assertTrue(ast.get_docstring(node), f"{path}:{node.lineno} {node.name}")


class Examples(unittest.TestCase):
    def test_examples_in_docstrings_hold(self) -> None:
        tried = 0
        for info in pkgutil.walk_packages([str(ROOT / "core")], "warmeter.core."):
            result = doctest.testmod(importlib.import_module(info.name))
            self.assertEqual(result.failed, 0, info.name)
            tried += result.attempted
        self.assertGreater(tried, 5)
