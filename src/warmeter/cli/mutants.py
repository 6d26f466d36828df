"""Small changes of the core, one at a time, that its tests should see (``warmeter mutants``).

Which test modules run a line is measured once; each change is then tried by those alone, the quickest first, in a copy
of the sources. A change that no test sees is a survivor: it is listed with its place.
"""

import argparse
import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
CORE = ROOT / "src" / "warmeter" / "core"
ASKED_SHARE = 0.9
LONGEST_S = 300
# What a change of one sort makes of an operator.
COMPARISONS: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE,
    ast.LtE: ast.Lt,
    ast.Gt: ast.GtE,
    ast.GtE: ast.Gt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
}
OPERATORS: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.FloorDiv: ast.Mult,
    ast.Mod: ast.Mult,
    ast.Pow: ast.Mult,
}


@dataclass(frozen=True, slots=True)
class Mutant:
    """A change: its file under the core, line, sort, and what stands there before and after."""

    file: str
    line: int
    sort: str
    before: str
    after: str
    start: tuple[int, int]
    end: tuple[int, int]

    @property
    def told(self) -> str:
        """The change in one line."""
        return f"{self.file}:{self.line} {self.sort}: {self.before} -> {self.after}"


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Yield every change that a file allows; docstrings, annotations and defaults of logs are left."""
    source = path.read_text(encoding="utf-8")
    tree = ast.parse(source)
    quiet = _annotated(tree)
    for node in ast.walk(tree):
        if id(node) in quiet or not isinstance(node, ast.expr):
            continue
        for sort, changed in _changes(node):
            before, after = ast.get_source_segment(source, node) or "", ast.unparse(changed)
            if before and "\n" not in before and node.end_lineno is not None and node.end_col_offset is not None:
                yield Mutant(
                    file=str(path.relative_to(CORE)),
                    line=node.lineno,
                    sort=sort,
                    before=before,
                    after=f"({after})",
                    start=(node.lineno, node.col_offset),
                    end=(node.end_lineno, node.end_col_offset),
                )


def _annotated(tree: ast.Module) -> set[int]:
    """Return the nodes within annotations, whose limits documents keep, and within what is raised to be read."""
    roots: list[ast.AST] = []
    for node in ast.walk(tree):
        if isinstance(node, ast.AnnAssign | ast.arg) and node.annotation is not None:
            roots.append(node.annotation)
        elif isinstance(node, ast.FunctionDef) and node.returns is not None:
            roots.append(node.returns)
        elif isinstance(node, ast.JoinedStr) or (
            isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name) and node.value.id == "Annotated"
        ):
            roots.append(node)
        elif isinstance(node, ast.FunctionDef | ast.ClassDef):
            roots += node.decorator_list
    return {id(inner) for root in roots for inner in ast.walk(root)}


def _changes(node: ast.expr) -> Iterator[tuple[str, ast.expr]]:
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARISONS:
        yield "comparison", ast.Compare(node.left, [COMPARISONS[type(node.ops[0])]()], node.comparators)
    elif isinstance(node, ast.BinOp) and type(node.op) in OPERATORS and not isinstance(node.left, ast.Constant):
        yield "operator", ast.BinOp(node.left, OPERATORS[type(node.op)](), node.right)
    elif isinstance(node, ast.BoolOp):
        yield "and or", ast.BoolOp(ast.Or() if isinstance(node.op, ast.And) else ast.And(), node.values)
    elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not):
        yield "sign", node.operand
    elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
        yield "constant", ast.Constant(_other(node.value))
    elif isinstance(node, ast.IfExp):
        yield "order", ast.IfExp(node.test, node.orelse, node.body)
    elif isinstance(node, ast.Call) and len(node.args) == 2 and _has_order(node):
        yield "order", ast.Call(node.func, [node.args[1], node.args[0]], node.keywords)


def _has_order(call: ast.Call) -> bool:
    """Whether the order of a call's arguments matters."""
    name = call.func.id if isinstance(call.func, ast.Name) else getattr(call.func, "attr", "")
    return name not in ("min", "max", "minimum", "maximum") and not any(isinstance(a, ast.Starred) for a in call.args)


def _other(value: object) -> int | float:
    """Return another number near one: a tenth more, and of nought one."""
    if isinstance(value, int):
        return value + 1
    assert isinstance(value, float)
    return value * 1.1 if value else 1.0


def drawn(count: int, seed: int) -> list[Mutant]:
    """Return a sample of all changes of the core, the same for the same seed and sources."""
    found = [mutant for path in sorted(CORE.rglob("*.py")) for mutant in mutants_of(path)]
    return random.Random(seed).sample(found, min(count, len(found)))  # noqa: S311  (drawn the same each time)


def test_modules() -> list[str]:
    """Return the modules of the core's tests that say what it does, not how it is written."""
    left = ("test_house_rules", "test_glossary", "test_documents")
    paths = sorted((ROOT / "tests" / "core").rglob("test_*.py"))
    return [".".join(p.relative_to(ROOT).with_suffix("").parts) for p in paths if p.stem not in left]


@dataclass(frozen=True, slots=True)
class Reach:
    """Which test modules run which lines, and how long each takes [s]."""

    lines: dict[str, dict[str, list[int]]]
    seconds: dict[str, float]

    def tests_of(self, mutant: Mutant) -> list[str]:
        """Return the modules that run a line, or where no one is seen to (compiled code) its file; quickest first."""
        by_line = [test for test, files in self.lines.items() if mutant.line in files.get(mutant.file, ())]
        by_file = [test for test, files in self.lines.items() if files.get(mutant.file)]
        return sorted(by_line or by_file, key=lambda test: self.seconds[test])


def measured(jobs: int) -> Reach:
    """Run every test module of the core once and see which lines of the core it runs."""
    with tempfile.TemporaryDirectory(prefix="warmeter-reach-") as name, ThreadPoolExecutor(jobs) as pool:
        told = dict(pool.map(lambda test: (test, _reach_of(test, Path(name))), test_modules()))
    return Reach({test: lines for test, (lines, _) in told.items()}, {test: s for test, (_, s) in told.items()})


def _reach_of(test: str, folder: Path) -> tuple[dict[str, list[int]], float]:
    data, out = folder / test, folder / f"{test}.json"
    start = time.monotonic()
    tool = [sys.executable, "-m", "coverage"]
    options = [f"--data-file={data}"]
    run = [*tool, "run", *options, f"--source={CORE}", "-m", "unittest", "-q", test]
    done = subprocess.run(  # noqa: S603  (this Python, our own tests)
        run, cwd=ROOT, env=_environment(ROOT / "src"), capture_output=True, text=True, check=False
    )
    seconds = time.monotonic() - start
    if done.returncode:
        raise SystemExit(f"{test} fails without any change; correct it first\n{done.stderr[-2000:]}")
    told = [*tool, "json", *options, "-q", "-o", str(out)]
    subprocess.run(told, cwd=ROOT, env=_environment(ROOT / "src"), check=True, capture_output=True)  # noqa: S603
    files = json.loads(out.read_text(encoding="utf-8"))["files"]
    prefix = str(CORE.relative_to(ROOT)) + os.sep
    return {path.removeprefix(prefix): found["executed_lines"] for path, found in files.items()}, seconds


def _environment(src: Path) -> dict[str, str]:
    return {
        **os.environ,
        "PYTHONPATH": os.pathsep.join((str(src), str(ROOT), *sys.path[1:])),
        "PYTHONDONTWRITEBYTECODE": "1",
    }


def is_killed(mutant: Mutant, tests: list[str], src: Path) -> bool:
    """Return whether one of the tests fails with a change made in a copy of the sources."""
    path = src / "warmeter" / "core" / mutant.file
    whole = path.read_text(encoding="utf-8")
    path.write_text(_with(whole, mutant), encoding="utf-8")
    try:
        run = [sys.executable, "-m", "unittest", "-q", "-f", *tests]
        try:
            done = subprocess.run(  # noqa: S603  (this Python, our own tests)
                run, cwd=ROOT, env=_environment(src), capture_output=True, timeout=LONGEST_S, check=False
            )
        except subprocess.TimeoutExpired:
            return True
        return done.returncode != 0
    finally:
        path.write_text(whole, encoding="utf-8")


def _with(source: str, mutant: Mutant) -> str:
    """Return a source with a change made; columns are those of its bytes."""
    lines = source.encode().split(b"\n")
    row = mutant.start[0] - 1
    line = lines[row]
    lines[row] = line[: mutant.start[1]] + mutant.after.encode() + line[mutant.end[1] :]
    return b"\n".join(lines).decode()


def run(options: argparse.Namespace) -> int:
    """Draw changes, try each, and list those that no test saw; 1 if fewer than nine in ten were seen."""
    mutants = drawn(options.count, options.seed)
    print(f"measuring which of {len(test_modules())} test modules run which lines", flush=True)
    reach = measured(options.jobs)
    with tempfile.TemporaryDirectory(prefix="warmeter-mutants-") as name:
        copies = [Path(name) / str(k) for k in range(options.jobs)]
        for copy in copies:
            shutil.copytree(ROOT / "src", copy, ignore=shutil.ignore_patterns("__pycache__"))
        with ThreadPoolExecutor(options.jobs) as pool:
            killed = list(pool.map(lambda k: _tried(k, mutants, reach, copies), range(len(mutants))))
    survivors = [mutant for mutant, is_seen in zip(mutants, killed, strict=True) if not is_seen]
    for mutant in survivors:
        print(f"survivor {mutant.told}{'' if reach.tests_of(mutant) else ' (no test runs it)'}")
    share = 1 - len(survivors) / len(mutants)
    print(f"{len(mutants)} changes, {len(mutants) - len(survivors)} seen by the core's tests: {share:.0%}")
    return 0 if share >= ASKED_SHARE else 1


def _tried(k: int, mutants: list[Mutant], reach: Reach, free: list[Path]) -> bool:
    tests = reach.tests_of(mutants[k])
    if not tests:
        return False
    src = free.pop()
    try:
        seen = is_killed(mutants[k], tests, src)
    finally:
        free.append(src)
    print(f"{k + 1}/{len(mutants)} {'seen    ' if seen else 'SURVIVES'} {mutants[k].told}", flush=True)
    return seen
