"""A private MQTT broker on loopback, its folder beside the database; each home sees its own topics only."""

import getpass
import hashlib
import os
import secrets
import shutil
import signal
import socket
import subprocess
import time
from fcntl import LOCK_EX, flock
from pathlib import Path

MOSQUITTO, MOSQUITTO_PASSWD = "/usr/sbin/mosquitto", "/usr/bin/mosquitto_passwd"
READY_S, STOP_S, PORT_WAIT_S = 20.0, 2.5, 5.0
# Below those that connections go out from: a device that calls while the broker is away could take the port itself.
PORTS = range(20_000, 30_000)
MAXIMUM_PACKET, MAXIMUM_QUEUED, MAXIMUM_IN_FLIGHT = 65_536, 200_000, 20_000
APP_USER = "warmeter"  # the application itself, which hears every home


class BrokerError(RuntimeError):
    """The private broker cannot be used; the sentence says what to do."""


class PrivateBroker:
    """One broker for one data folder, started and stopped with it; one that a killed process left is adopted.

    Parameters
    ----------
    folder : Path
        Holds its passwords and what waits for devices that are away.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = (folder / "broker").resolve()
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def port(self) -> int:
        """The port of loopback where it listens, 0 before it was first started."""
        return int(self._port_file.read_text()) if self._port_file.exists() else 0

    @property
    def _port_file(self) -> Path:
        return self.folder / "port"

    @property
    def _pid_file(self) -> Path:
        return self.folder / "mosquitto.pid"

    @property
    def _config(self) -> Path:
        return self.folder / "mosquitto.conf"

    @property
    def _passwords(self) -> Path:
        return self.folder / "passwords"

    @property
    def is_running(self) -> bool:
        """Whether its process lives."""
        if self._process is not None:
            return self._process.poll() is None
        return self.pid() is not None

    def start(self) -> None:
        """Start it, or adopt the one that runs.

        Raises
        ------
        BrokerError
            If it is not installed, its folder cannot be written, or it does not answer.
        """
        if not Path(MOSQUITTO).exists():
            raise BrokerError(
                "The MQTT broker is not installed. Install it with: apt-get install --no-install-recommends mosquitto"
            )
        try:
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        except OSError as error:
            raise BrokerError(f"The folder {self.folder} cannot be written ({error.strerror}).") from error
        self.password(APP_USER)
        # One that comes back answers where it did before, so that devices find it; one that another process has just
        # started may have its port already, and tells its number a moment later.
        end = time.monotonic() + PORT_WAIT_S
        while self.pid() is None and self.port and not _is_free(self.port) and time.monotonic() < end:
            time.sleep(0.05)
        if self.pid() is not None:
            return
        if not self.port or not _is_free(self.port):
            self._port_file.write_text(str(_free_port()))
        self._write_config()
        self._process = subprocess.Popen(  # noqa: S603
            [MOSQUITTO, "-c", str(self._config)],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        end = time.monotonic() + READY_S
        while time.monotonic() < end:
            if self._process.poll() is not None:
                raise BrokerError(f"The MQTT broker ended at once; see {self.folder / 'mosquitto.log'}.")
            if self._answers():
                return
            time.sleep(0.02)
        raise BrokerError(f"The MQTT broker does not answer; see {self.folder / 'mosquitto.log'}.")

    def stop(self) -> None:
        """Stop it and wait until it has gone; one that does not end in time is killed."""
        for how in (signal.SIGTERM, signal.SIGKILL):
            pid = self._process.pid if self._process is not None else self.pid()
            if pid is None or not self.is_running:
                break
            os.kill(pid, how)
            end = time.monotonic() + STOP_S
            while self.is_running and time.monotonic() < end:
                time.sleep(0.02)
        if self._process is not None:
            self._process.wait()
        self._process = None

    def password(self, user: str) -> str:
        """Return the password of a user, made at the first asking: the application's own, or one of a home's devices.

        A home's user has the home's id for its name, and reaches topics below ``homes/<id>/`` only.
        """
        kept = self.password_file(user)
        if not kept.exists():
            self.folder.mkdir(mode=0o700, parents=True, exist_ok=True)
            # Several processes may ask at once: one makes it, and lets the broker know.
            with (self.folder / "making").open("w") as lock:
                flock(lock, LOCK_EX)
                if not kept.exists():
                    made = secrets.token_urlsafe(24)
                    self._take(user, made)
                    making = self.folder / "making-password"
                    making.touch(mode=0o600)
                    making.write_text(made)
                    making.replace(kept)
        return kept.read_text()

    def password_file(self, user: str) -> Path:
        """Return the file that holds a user's password."""
        return self.folder / f"password-{hashlib.sha256(user.encode()).hexdigest()[:16]}"

    def _take(self, user: str, password: str) -> None:
        """Let the broker know a user: digests only are kept in its file."""
        making = self._passwords.with_suffix(f".{os.getpid()}")
        if self._passwords.exists():
            shutil.copy(self._passwords, making)
        else:
            making.touch(mode=0o600)
        done = subprocess.run(  # noqa: S603
            [MOSQUITTO_PASSWD, "-b", str(making), user, password], capture_output=True, check=False
        )
        if done.returncode:
            raise BrokerError("The MQTT broker's passwords could not be written.")
        making.chmod(0o600)
        making.replace(self._passwords)
        pid = self.pid()
        if pid is not None:
            os.kill(pid, signal.SIGHUP)  # it reads them anew

    def _write_config(self) -> None:
        acl = self.folder / "topics"
        acl.write_text(f"user {APP_USER}\ntopic readwrite #\n\npattern readwrite homes/%u/#\n")
        acl.chmod(0o600)
        lines = (
            f"listener {self.port} 127.0.0.1",
            "allow_anonymous false",
            f"password_file {self._passwords}",
            f"acl_file {acl}",
            f"user {getpass.getuser()}",
            f"pid_file {self._pid_file}",
            f"log_dest file {self.folder / 'mosquitto.log'}",
            "log_type error",
            "log_type warning",
            "persistence true",
            f"persistence_location {self.folder}/",
            # What nobody has heard yet is saved every second: saved at every change, a backlog slows down all the rest.
            "autosave_on_changes false",
            "autosave_interval 1",
            f"max_packet_size {MAXIMUM_PACKET}",
            # What waits lies with whoever listens too, so that it outlives the death of either.
            f"max_inflight_messages {MAXIMUM_IN_FLIGHT}",
            f"max_queued_messages {MAXIMUM_QUEUED}",
            "persistent_client_expiration 7d",
        )
        self._config.write_text("\n".join(lines) + "\n")
        self._config.chmod(0o600)

    def _answers(self) -> bool:
        try:
            with socket.create_connection(("127.0.0.1", self.port), timeout=1):
                return True
        except OSError:
            return False

    def pid(self) -> int | None:
        """Return the process of a running broker of ours, None if there is none."""
        try:
            pid = int(self._pid_file.read_text())
            name = Path(f"/proc/{pid}/cmdline").read_bytes()
        except (OSError, ValueError):
            return None
        return pid if str(self._config).encode() in name else None


def _free_port() -> int:
    while True:
        port = PORTS[secrets.randbelow(len(PORTS))]
        if _is_free(port):
            return port


def _is_free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True
