"""The tests, in two processes side by side, each with a database of its own (``warmeter test [part]``).

Those in the browser go one after another in one process, so that no page waits for another's; the other takes the rest.
"""

import io
import json
import subprocess
import sys
import threading
import time
import unittest
from dataclasses import asdict, dataclass
from pathlib import Path

BAD_INPUT = 2
# The slow ones first, so that both processes end at about the same time.
PARTS = ("browser", "cli", "core", "web", "service", "store", "simulators")
MARK = "\x1e"
_LOCK = threading.Lock()


@dataclass(frozen=True, slots=True)
class ModuleResult:
    """What a module's tests came to; ``told`` is what the runner says of failures."""

    module: str
    ran: int
    failed: int
    skipped: int
    seconds: float
    told: str


def run_module(module: str) -> ModuleResult:
    """Run the tests of a module."""
    out, start = io.StringIO(), time.monotonic()
    result = unittest.TextTestRunner(stream=out, verbosity=1).run(unittest.defaultTestLoader.loadTestsFromName(module))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    return ModuleResult(
        module=module,
        ran=result.testsRun,
        failed=failed,
        skipped=len(result.skipped),
        seconds=time.monotonic() - start,
        told=out.getvalue() if failed else "",
    )


def modules_of(where: Path) -> list[str]:
    """Return the test modules under a folder, those of the slow parts first and of a part the biggest first."""
    paths = sorted(where.rglob("test_*.py"), key=lambda path: -path.stat().st_size)
    names = [".".join(path.with_suffix("").parts) for path in paths]
    return sorted(
        names, key=lambda name: PARTS.index(name.split(".")[1]) if name.split(".")[1] in PARTS else len(PARTS)
    )


def run_tests(part: str) -> int:
    """Run all tests, or those of a part or of one of its folders; 0 if all are well."""
    where = Path("tests") / part if part else Path("tests")
    modules = modules_of(where) if where.is_dir() else []
    if not modules:
        print(f"there is no part {part!r} with tests; choose of {', '.join(sorted(PARTS))}", file=sys.stderr)
        return BAD_INPUT
    start = time.monotonic()
    results: list[ModuleResult] = []
    browser = [name for name in modules if name.startswith("tests.browser.")]
    others = [name for name in modules if name not in browser]
    threads = [
        threading.Thread(target=_serve, args=(queues, results, len(modules)))
        for queues in ((browser, others), (others,))
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return _told(modules, results, time.monotonic() - start)


def _serve(queues: tuple[list[str], ...], results: list[ModuleResult], count: int) -> None:
    """Run the queues in turn, each in a process of its own: a browser that a run shares ends with its process."""
    for queue in queues:
        _serve_queue(queue, results, count)


def _serve_queue(queue: list[str], results: list[ModuleResult], count: int) -> None:
    """Hand the modules of a queue to a process until none is left."""
    command = [sys.executable, "-m", "warmeter.cli.testing"]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as worker:  # noqa: S603
        assert worker.stdin is not None and worker.stdout is not None
        while (module := _next(queue)) is not None:
            worker.stdin.write(f"{module}\n")
            worker.stdin.flush()
            line = next((line for line in worker.stdout if line.startswith(MARK)), "")
            if not line:
                results.append(ModuleResult(module, 0, 1, 0, 0.0, "its process ended before its tests\n"))
                return
            result = ModuleResult(**json.loads(line[1:]))
            results.append(result)
            state = f"{result.failed} FAILED" if result.failed else "ok"
            print(f"{len(results)}/{count} {module}: {result.ran} in {result.seconds:.1f} s, {state}", flush=True)
        worker.stdin.close()


def _next(queue: list[str]) -> str | None:
    """Take the next module of a queue that another process may take from too."""
    with _LOCK:
        return queue.pop(0) if queue else None


def _told(modules: list[str], results: list[ModuleResult], seconds: float) -> int:
    for result in results:
        if result.failed:
            print(f"\n{result.module}\n{result.told}", file=sys.stderr)
    missing = sorted(set(modules) - {result.module for result in results})
    for module in missing:
        print(f"{module} was not run", file=sys.stderr)
    failed = sum(result.failed for result in results)
    print(f"\nRan {sum(result.ran for result in results)} tests in {seconds:.3f}s\n")
    print(f"FAILED (failures={failed})" if failed or missing else "OK")
    return 1 if failed or missing else 0


def work() -> None:
    """Run the modules that are asked for, one a line, and answer each with a line."""
    sys.path.insert(0, str(Path.cwd()))
    out = sys.stdout
    sys.stdout = sys.stderr  # what tests print is no answer
    for line in sys.stdin:
        out.write(f"{MARK}{json.dumps(asdict(run_module(line.strip())))}\n")
        out.flush()


if __name__ == "__main__":
    work()
