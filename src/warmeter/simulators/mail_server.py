"""A stand-in for a mail server: takes what is handed over on loopback and lays it into a folder, one file each."""

import socket
import time
from email import message_from_bytes
from email.policy import default
from pathlib import Path

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session

MOST_KEPT, MOST_BYTES = 200, 100_000


class _Handler:
    def __init__(self, folder: Path) -> None:
        self.folder, self.count = folder, 0

    async def handle_DATA(self, _server: SMTP, _session: Session, envelope: Envelope) -> str:
        """Lay a mail into the folder; the oldest go."""
        self.count += 1
        content = envelope.original_content or b""
        path = self.folder / f"{time.time_ns()}-{self.count}.eml"
        making = path.with_suffix(".making")
        making.write_bytes(f"X-To: {', '.join(envelope.rcpt_tos)}\r\n".encode() + content)
        making.replace(path)
        for old in sorted(self.folder.glob("*.eml"))[:-MOST_KEPT]:
            old.unlink(missing_ok=True)
        return "250 kept"


class MailStandIn:
    """A mail server on a free port of loopback."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        # The library looks for itself at the port that it was given: it must be a number.
        with socket.create_server(("127.0.0.1", 0)) as probe:
            self.port = int(probe.getsockname()[1])
        self._controller = Controller(
            _Handler(folder), hostname="127.0.0.1", port=self.port, data_size_limit=MOST_BYTES
        )

    def start(self) -> None:
        """Begin to take mail."""
        self._controller.start()

    def stop(self) -> None:
        """Take no more."""
        self._controller.stop()


def mails_in(folder: Path) -> list[tuple[str, str, str]]:
    """Return (to, subject, text) of what was taken, the newest first."""
    found = []
    for path in sorted(folder.glob("*.eml"), reverse=True):
        mail = message_from_bytes(path.read_bytes(), policy=default)
        body = mail.get_body(preferencelist=("plain",))
        found.append((str(mail["X-To"]), str(mail["Subject"]), "" if body is None else str(body.get_content())))
    return found
