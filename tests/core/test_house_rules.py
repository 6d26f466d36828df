"""Rules of the house: imports point one way, the core is pure, names are not used twice."""

import ast
import doctest
import importlib
import itertools
import pkgutil
import re
import unittest
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import warmeter
from tests.sources import tree_of
from warmeter.core.home.conditions.kinds import SINGLE_KINDS

ROOT = Path(warmeter.__file__).parent
# Which packages a package may import; inside the core, which rooms a room may.
MAY = {
    "core": {"core"},
    "store": {"core", "store"},
    "simulators": {"core", "simulators"},
    "links": {"core", "links"},
    "service": {"core", "store", "simulators", "links", "service"},
    "web": {"core", "store", "service", "web"},
    "cli": {"core", "store", "simulators", "links", "service", "web", "cli"},
}
GROUND = {
    "wording",
    "sentence",
    "arrays",
    "errors",
    "csv_cells",
    "quantity",
    "units",
    "timegrid",
    "finding",
    "figure",
    "page_step",
    "claims",
    "readings",
}
TARIFF = GROUND | {"tariff"}
CORE_MAY = {
    "claims": GROUND,
    "readings": GROUND,
    "tariff": GROUND | {"home", "tariff"},
    "signature": GROUND | {"saving", "signature"},
    "saving": GROUND | {"saving"},
    "electric": GROUND | {"home", "sensing", "electric"},
    "water": GROUND | {"home", "sensing", "water"},
    "weather": GROUND | {"weather"},
    "thermal": GROUND | {"thermal"},
    "emitters": GROUND | {"emitters"},
    "sensing": GROUND | {"sensing"},
    "floor_plan": GROUND | {"floor_plan"},
    "truth": GROUND | {"weather", "truth"},
    "radio": GROUND | {"radio"},
    "ducts": GROUND | {"home", "thermal", "ducts"},
    "home": GROUND | {"thermal", "floor_plan", "sensing", "emitters", "truth", "home"},
    "rule": GROUND | {"home", "claims", "timetable", "sensing", "weather", "truth", "rule"},
    "link": GROUND | {"home", "link"},
    "live": GROUND | {"home", "rule", "truth", "timetable", "signature", "sensing", "link", "live"},
    "building": TARIFF
    | {
        "thermal",
        "floor_plan",
        "sensing",
        "emitters",
        "home",
        "weather",
        "timetable",
        "electric",
        "water",
        "ducts",
        "building",
    },
    "shading": GROUND | {"home", "thermal", "building", "floor_plan", "weather", "shading"},
    "panel": GROUND | {"home", "panel"},
    "presence": GROUND | {"home", "truth", "timetable", "edits", "presence"},
    "timetable": GROUND | {"home", "timetable"},
    "appliance": GROUND | {"home", "signature", "appliance"},
    "forecast": TARIFF
    | {"home", "thermal", "building", "timetable", "warmup", "weather", "emitters", "floor_plan", "ducts", "forecast"},
    "explain": TARIFF
    | {
        "home",
        "thermal",
        "building",
        "timetable",
        "warmup",
        "weather",
        "forecast",
        "appliance",
        "emitters",
        "signature",
    }
    | {"floor_plan", "electric", "water", "ducts", "shading", "explain"},
    "edits": TARIFF | {"home", "floor_plan", "sensing", "building", "timetable", "rule", "water", "link", "edits"},
    "starters": GROUND | {"home", "rule", "sensing", "building", "shading", "edits", "starters"},
    "matters": TARIFF | {"home", "thermal", "warmup", "rule", "saving", "matters"},
    "find": GROUND | {"find"},
    "day_plan": TARIFF | {"home", "day_plan"},
    "preheat": TARIFF
    | {"home", "thermal", "building", "timetable", "warmup", "forecast", "edits", "day_plan", "preheat"},
    "nuisances": TARIFF | {"home", "edits", "starters", "timetable", "nuisances"},
    "warmup": GROUND | {"home", "presence", "thermal", "timetable", "weather", "warmup"},
}
# It calls every compiled kernel once, wherever it stands.
CORE_MAY["kernel_loading.py"] = GROUND | set(CORE_MAY)
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


@cache
def imports_of(path: Path) -> frozenset[str]:
    """Return every module that a file imports, also inside functions."""
    found: set[str] = set()
    for node in ast.walk(tree_of(path)):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return frozenset(found)


WORKED = ROOT / "cli" / "worked"


def module_of(path: Path) -> str:
    """Return the name of the module in a file."""
    words = path.relative_to(ROOT.parent).with_suffix("").parts
    return ".".join(words[:-1] if words[-1] == "__init__" else words)


class Reach:
    """What of the core is used by what: top-level names as (module, name), by the names that their code mentions."""

    def __init__(self) -> None:
        self.trees = {path: tree_of(path) for path in ROOT.rglob("*.py")}
        self.defined: dict[tuple[str, str], ast.stmt] = {}
        self._meanings: dict[Path, dict[str, tuple[str, str]]] = {}
        for path in (ROOT / "core").rglob("*.py"):
            for node in self.trees[path].body:
                for name in self.names_of(node):
                    self.defined[module_of(path), name] = node

    @staticmethod
    def names_of(node: ast.stmt) -> list[str]:
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            return [node.name]
        targets = (
            node.targets if isinstance(node, ast.Assign) else [node.target] if isinstance(node, ast.AnnAssign) else []
        )
        return [t.id for t in targets if isinstance(t, ast.Name)]

    def meanings(self, path: Path) -> dict[str, tuple[str, str]]:
        """Return what each name of a file stands for, its imports and, in the core, its own."""
        if path in self._meanings:
            return self._meanings[path]
        here = module_of(path)
        found = {name: (module, name) for module, name in self.defined if module == here}
        for node in ast.walk(self.trees[path]):
            if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("warmeter."):
                found |= {a.asname or a.name: (node.module, a.name) for a in node.names}
        self._meanings[path] = found
        return found

    def mentioned(self, node: ast.AST, path: Path) -> set[tuple[str, str]]:
        """Return the top-level names of the core that a piece of code mentions, by name or through a module."""
        known = self.meanings(path)
        found = {known[n.id] for n in ast.walk(node) if isinstance(n, ast.Name) and n.id in known}
        for n in ast.walk(node):
            if isinstance(n, ast.Attribute) and isinstance(n.value, ast.Name) and n.value.id in known:
                module, name = known[n.value.id]
                found.add((f"{module}.{name}", n.attr))
        return {key for key in found if key in self.defined}

    def reached(self) -> set[tuple[str, str]]:
        """Return what screens, files and commands reach, adapters of worked examples and tests left out."""
        paths = {module_of(path): path for path in self.trees}
        todo = [
            key
            for path, tree in self.trees.items()
            if ROOT / "core" not in path.parents and WORKED not in path.parents
            for key in self.mentioned(tree, path)
        ]
        # Kinds of condition are found by their modules: every home may hold one.
        todo += [(kind.__module__, kind.__name__) for kind in SINGLE_KINDS]
        found: set[tuple[str, str]] = set()
        while todo:
            key = todo.pop()
            if key not in found:
                found.add(key)
                todo += self.mentioned(self.defined[key], paths[key[0]])
        return found


class Reached(unittest.TestCase):
    def test_nothing_in_the_core_is_there_for_worked_examples_or_tests_alone(self) -> None:
        reach = Reach()
        kept = reach.reached()
        left = sorted(
            f"{module}.{name}"
            for (module, name), node in reach.defined.items()
            if (module, name) not in kept and isinstance(node, ast.FunctionDef | ast.ClassDef)
        )
        self.assertEqual(left, [], "no screen, file or command uses these: use them there, or take them out")
        self.assertGreater(len(kept), 800)

    def test_the_reach_sees_through_a_function_that_only_an_adapter_calls(self) -> None:
        reach = Reach()
        path = ROOT / "cli" / "worked" / "emitters.py"
        seen = reach.mentioned(reach.trees[path], path)
        self.assertIn(("warmeter.core.emitters.radiator", "output_w"), seen)
        self.assertNotIn(("warmeter.core.emitters.radiator", "no_such"), seen)


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

    def test_no_module_of_service_only_computes(self) -> None:
        # What touches neither store, job, clock nor file belongs to the core.
        touches = {"time", "os", "threading", "tempfile", "logging", "pathlib", "warmeter.service.app"}
        for path in (ROOT / "service").rglob("*.py"):
            names = imports_of(path)
            if path.name not in ("__init__.py", "limits.py"):
                stores = {name for name in names if name.startswith("warmeter.store")}
                with self.subTest(str(path)):
                    self.assertTrue(stores | names & touches)

    def test_core_knows_no_clock_file_network_or_chance(self) -> None:
        for path in (ROOT / "core").rglob("*.py"):
            with self.subTest(str(path)):
                self.assertFalse({name.split(".")[0] for name in imports_of(path)} & IMPURE)
                text = path.read_text(encoding="utf-8")
                for word in ("np.random", ".today()", ".now("):
                    self.assertNotIn(word, text)

    def test_sqlalchemy_is_used_in_the_store_and_opened_by_the_service_only(self) -> None:
        for path in ROOT.rglob("*.py"):
            if path.relative_to(ROOT).parts[0] in ("core", "web", "simulators", "cli"):
                self.assertFalse({n for n in imports_of(path) if n.startswith("sqlalchemy")}, str(path))

    def test_no_import_hides_in_a_function(self) -> None:
        for path in ROOT.rglob("*.py"):
            for node in ast.walk(tree_of(path)):
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


# Factors between units that could be nothing else; each has a name in core/units.
FACTORS = {60_000, 3_600_000, 3600, 86_400, 86_400_000, 1440, 273.15, 1.8}


def bare_factors(tree: ast.AST) -> list[int]:
    """Return the lines of a module on which a factor between units is written as a number."""
    found = []
    for node in ast.walk(tree):
        operands: list[ast.expr] = []
        if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Mult | ast.Div | ast.FloorDiv | ast.Mod):
            operands = [node.left, node.right]
        elif isinstance(node, ast.BinOp):
            is_kelvin = [isinstance(x, ast.Constant) and x.value == 273.15 for x in (node.left, node.right)]
            operands = [x for x, yes in zip((node.left, node.right), is_kelvin, strict=True) if yes]
        elif isinstance(node, ast.AugAssign) and isinstance(node.op, ast.Mult | ast.Div | ast.FloorDiv | ast.Mod):
            operands = [node.value]
        found += [x.lineno for x in operands if isinstance(x, ast.Constant) and x.value in FACTORS]
    return found


class Conversions(unittest.TestCase):
    def test_factors_between_units_stand_in_units_alone(self) -> None:
        for path in ROOT.rglob("*.py"):
            # A washing machine that draws 1.8 times its motor's power converts nothing.
            if path != ROOT / "core" / "units.py" and "machines" not in path.parts:
                self.assertEqual(bare_factors(tree_of(path)), [], str(path))

    def test_a_bare_factor_would_be_seen(self) -> None:
        for planted in ("kwh = watts * 3_600_000", "x = t / 3600", "y = c + 273.15", "z *= 1.8", "m = at // 60_000"):
            self.assertEqual(bare_factors(ast.parse(planted)), [1], planted)
        for sound in ("hold_s = 3600", "x = 1440", "limit_c = 273.15"):
            self.assertEqual(bare_factors(ast.parse(sound)), [], sound)


# What reads files, typed text or styles may use regular expressions; nobody takes a sentence apart with one.
READING = {
    "web/tariff/rate_texts.py",
    "core/readings/logblocks.py",
    "core/readings/espi.py",
    "core/readings/csvlog.py",
    "core/readings/record_log.py",
    "core/readings/column_words.py",
    "core/readings/log_proposal.py",
    "core/readings/bill_table.py",
    "core/csv_cells.py",
    "service/readings/logs.py",
    "web/strip/draw.py",
    "web/floor_plan/file.py",
    "web/rules/slots.py",
    "web/typed.py",
    "web/survey/room_lines.py",
    "web/signatures/routes.py",
    "web/find/help_texts.py",
}
_WRITTEN = re.compile(r"(?:^|(?<!m)\d) (?:°C|K)(?![·\w])")


def written_temperatures(tree: ast.AST) -> list[int]:
    """Return the lines on which a temperature is written out instead of given to a sentence as a measure."""
    apart: set[int] = set()  # docstrings, formulas and names of methods
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) or (isinstance(node, ast.keyword) and node.arg in ("formula", "method")):
            apart |= {id(inner) for inner in ast.walk(node)} if isinstance(node.value, ast.Constant) else set()
    found = []
    for node in ast.walk(tree):
        if id(node) in apart:
            continue
        if isinstance(node, ast.JoinedStr):
            texts = [part.value if isinstance(part, ast.Constant) else "0" for part in node.values]
            found += [node.lineno] * any(_WRITTEN.search(f"{a}{b}") for a, b in itertools.pairwise(map(str, texts)))
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and _WRITTEN.search(node.value[1:]):
            found.append(node.lineno)
    return found


class Sentences(unittest.TestCase):
    def test_no_sentence_is_taken_apart_by_a_regular_expression(self) -> None:
        for room in ("core", "service", "web"):
            for path in (ROOT / room).rglob("*.py"):
                if str(path.relative_to(ROOT)) not in READING:
                    self.assertNotIn("re", imports_of(path), str(path))

    def test_temperatures_in_sentences_are_measures(self) -> None:
        for room in ("core", "service", "web"):
            for path in (ROOT / room).rglob("*.py"):
                self.assertEqual(written_temperatures(tree_of(path)), [], str(path))

    def test_a_temperature_that_was_written_out_would_be_seen(self) -> None:
        for planted in ('x = f"falls to {low:.1f} °C"', 'x = "wider by 2 K, or less"', 'x = f"{a} to {b} K"'):
            self.assertEqual(written_temperatures(ast.parse(planted)), [1], planted)
        for sound in ('unit = "°C"', 'x = f"{loss} W/K"', 'x = "3 K·h"', '"""At 2 K or more."""'):
            self.assertEqual(written_temperatures(ast.parse(sound)), [], sound)


def raising(tree: ast.AST) -> Iterator[tuple[str, str, str]]:
    """Yield (function, error, docstring) of public functions that raise by themselves; commands say it once, together."""
    for node in ast.walk(tree):
        if not isinstance(node, ast.FunctionDef) or node.name.startswith("_") or node.name == "edit":
            continue
        stack: list[ast.AST] = list(node.body)
        while stack:
            part = stack.pop()
            if isinstance(part, ast.FunctionDef | ast.Lambda | ast.ClassDef):
                continue
            if isinstance(part, ast.Raise) and isinstance(part.exc, ast.Call) and isinstance(part.exc.func, ast.Name):
                yield node.name, part.exc.func.id, ast.get_docstring(node) or ""
            stack += ast.iter_child_nodes(part)


# What simulates, fits or solves: web shows what came of it and calls none of it.
COMPUTING = tuple(f"warmeter.core.{room}." for room in ("thermal", "warmup", "emitters", "water", "claims"))


def computing_calls(tree: ast.Module) -> list[str]:
    """Return the functions that a module takes from rooms that compute; classes and constants it may name."""
    return [
        f"{node.module}.{name.name}"
        for node in tree.body
        if isinstance(node, ast.ImportFrom) and (node.module or "").startswith(COMPUTING)
        for name in node.names
        if name.name.islower()
    ]


class Web(unittest.TestCase):
    def test_no_page_simulates(self) -> None:
        for path in (ROOT / "web").rglob("*.py"):
            self.assertEqual(computing_calls(tree_of(path)), [], str(path))

    def test_a_page_that_did_would_be_seen(self) -> None:
        planted = ast.parse("from warmeter.core.thermal.simulate import OnOff, controlled_run")
        self.assertEqual(computing_calls(planted), ["warmeter.core.thermal.simulate.controlled_run"])

    def test_no_view_is_a_dictionary(self) -> None:
        # What reads forms gives values by the names of fields; what is shown is a frozen view.
        reads = {"form_reader.py", "slots.py", "slot_types.py"}
        for path in (ROOT / "web").rglob("*.py"):
            for node in ast.walk(tree_of(path)):
                if isinstance(node, ast.FunctionDef) and node.returns is not None and path.name not in reads:
                    self.assertFalse(
                        {"dict[str, object]", "dict[str, Any]"} & {ast.unparse(node.returns)}, f"{path}: {node.name}"
                    )
                if isinstance(node, ast.Call) and ast.unparse(node.func) == "render":
                    self.assertFalse([a for a in node.args if isinstance(a, ast.Dict)], f"{path}:{node.lineno}")


class Names(unittest.TestCase):
    def test_no_file_name_stands_twice_in_the_core(self) -> None:
        # A plain reference has the name of what it is the measure of.
        paths = [p for p in (ROOT / "core").rglob("*.py") if p.parent.name != "reference"]
        names = [p.name for p in paths if p.name != "__init__.py"]
        self.assertEqual(sorted(names), sorted(set(names)))

    def test_no_module_is_called_after_nothing(self) -> None:
        for path in ROOT.rglob("*.py"):
            self.assertNotIn(path.stem, {"utils", "helpers", "common", "manager", "base", "misc"})

    def test_public_functions_and_classes_say_what_they_do(self) -> None:
        for path in ROOT.rglob("*.py"):
            tree = tree_of(path)
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    self.assertTrue(ast.get_docstring(node), f"{path}:{node.lineno} {node.name}")


class Examples(unittest.TestCase):
    def test_what_a_function_raises_stands_in_its_docstring(self) -> None:
        for path in (ROOT / "core").rglob("*.py"):
            for name, raised, words in raising(tree_of(path)):
                self.assertIn(raised, words, f"{path}: {name}")

    def test_an_error_that_no_docstring_names_would_be_seen(self) -> None:
        planted = 'def f(x: int) -> int:\n    """Return it."""\n    raise HomeError("no")\n'
        self.assertEqual(list(raising(ast.parse(planted))), [("f", "HomeError", "Return it.")])

    def test_examples_in_docstrings_hold(self) -> None:
        tried = 0
        for info in pkgutil.walk_packages([str(ROOT / "core")], "warmeter.core."):
            result = doctest.testmod(importlib.import_module(info.name))
            self.assertEqual(result.failed, 0, info.name)
            tried += result.attempted
        self.assertGreater(tried, 5)
