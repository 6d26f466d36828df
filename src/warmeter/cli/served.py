"""A served demo of one's own: a subprocess on a free port, stopped by its own signal."""

import os
import re
import shutil
import signal
import subprocess
import sys
from pathlib import Path
from types import TracebackType

CHROMIUM_ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
]


def chromium_path() -> str:
    """Return Debian's Chromium.

    Raises
    ------
    FileNotFoundError
        If it is not installed; the sentence holds the command.
    """
    found = shutil.which("chromium") or shutil.which("chromium-browser")
    if found is None:
        raise FileNotFoundError("Chromium is not installed. Install it with: apt-get install chromium")
    return found


class Served:
    """A running ``warmeter demo``; a context manager that starts and stops it."""

    def __init__(self, data_dir: Path, *options: str) -> None:
        self._data_dir, self._options = data_dir, options
        self.address = ""
        self._process: subprocess.Popen[str] | None = None

    def __enter__(self) -> "Served":
        self.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.stop()

    @property
    def pid(self) -> int:
        """Process id of the server."""
        assert self._process is not None
        return self._process.pid

    def start(self) -> None:
        """Start the server and wait for the line with its address.

        Raises
        ------
        RuntimeError
            If it ends before it is ready.
        """
        command = [sys.executable, "-m", "warmeter.cli.main", "demo", "--port", "0", "--data-dir", str(self._data_dir)]
        self._process = subprocess.Popen(  # noqa: S603
            [*command, *self._options],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            env=dict(os.environ),
        )
        assert self._process.stdout is not None
        said = []
        for line in self._process.stdout:
            said.append(line)
            found = re.search(r"ready at (http://\S+?)/\s", line)
            if found:
                self.address = found.group(1)
                return
        raise RuntimeError("the server did not start: " + "".join(said))

    def stop(self, how: signal.Signals = signal.SIGTERM) -> str:
        """Send a signal, wait for the end, return what was said after the start."""
        assert self._process is not None
        if self._process.poll() is None:
            self._process.send_signal(how)
        rest, _ = self._process.communicate(timeout=60)
        return rest
