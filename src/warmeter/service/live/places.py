"""Where an install's broker, mail server and pages are, and what its homes listen to: in its data folder, its owner's only."""

import json
import os
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

from warmeter.links.broker import APP_USER, PrivateBroker
from warmeter.links.mail import MailServer
from warmeter.links.mqtt_link import BrokerAddress

FILE, PATTERNS_FILE = "links.json", "topics.json"


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkPlaces:
    """Where to find what homes are linked by.

    Parameters
    ----------
    mail : MailServer or None
        Where mail is handed over.
    page_url : str
        Address of the pages, as printed at the start.
    is_standing_in : bool
        Whether mail goes to the stand-in that ships with it, not out.
    broker_host, broker_port, broker_user, broker_password : str, int
        A broker of the user's own; without a host the private one.
    """

    mail: MailServer | None
    page_url: str
    is_standing_in: bool = False
    broker_host: str = ""
    broker_port: int = 1883
    broker_user: str = ""
    broker_password: str = ""


def write_places(folder: Path, places: LinkPlaces) -> None:
    """Keep the places for the other processes of an install."""
    _write(folder / FILE, asdict(places))


def write_patterns(folder: Path, patterns: Mapping[str, Sequence[str]]) -> None:
    """Keep the topic patterns of each home that is looked after: the next process hears them before the database answers."""
    _write(folder / PATTERNS_FILE, patterns)


def read_patterns(folder: Path) -> dict[str, tuple[str, ...]]:
    """Return the topic patterns of each home that was looked after last."""
    try:
        found = json.loads((folder / PATTERNS_FILE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return {home_id: tuple(patterns) for home_id, patterns in found.items()}


def _write(path: Path, content: Mapping[str, object]) -> None:
    making = path.with_name(f"{path.name}.{os.getpid()}")
    making.touch(mode=0o600)
    making.write_text(json.dumps(content), encoding="utf-8")
    making.replace(path)


def read_places(folder: Path) -> LinkPlaces | None:
    """Return the places of an install, None before its first start."""
    try:
        found = json.loads((folder / FILE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None
    mail = found.pop("mail")
    return LinkPlaces(mail=None if mail is None else MailServer(**mail), **found)


def broker_address(folder: Path, user: str = APP_USER) -> BrokerAddress | None:
    """Return where a user reaches the broker, None if there is none yet; ``user`` counts for the private one only."""
    places = read_places(folder)
    if places is not None and places.broker_host:
        return BrokerAddress(
            host=places.broker_host,
            port=places.broker_port,
            user=places.broker_user,
            password=places.broker_password,
            is_encrypted=places.broker_port == ENCRYPTED_PORT,
        )
    broker = PrivateBroker(folder)
    if not broker.port:
        return None
    return BrokerAddress(host="127.0.0.1", port=broker.port, user=user, password=broker.password(user))


ENCRYPTED_PORT = 8883


def broker_told(folder: Path, home_id: str) -> str:
    """Return in words where a home's devices reach the broker; the password is told as the file that holds it."""
    places = read_places(folder)
    if places is not None and places.broker_host:
        return f"{places.broker_host}, port {places.broker_port}, as set for this install"
    broker = PrivateBroker(folder)
    if not broker.port:
        return "not running yet"
    broker.password(home_id)
    return f"127.0.0.1, port {broker.port}, user {home_id}, password in {broker.password_file(home_id)}"


def mail_told(folder: Path) -> str:
    """Return in words where mail goes."""
    places = read_places(folder)
    if places is None or places.mail is None:
        return "No mail server is set, so no mail is sent."
    if places.is_standing_in:
        return "Mail goes to the stand-in that ships with Warmeter: nothing leaves this machine. Set WARMETER_MAIL_HOST to send it out."
    return f"Mail is handed over to {places.mail.host}, port {places.mail.port}."
