"""A message as a POST of JSON to an address on a web server."""

import json
from collections.abc import Mapping
from urllib.error import URLError
from urllib.parse import urlsplit
from urllib.request import HTTPRedirectHandler, Request, build_opener

from warmeter.links.mail import NotSent

TIMEOUT_S = 10.0


class _NoRedirect(HTTPRedirectHandler):
    """Goes nowhere but where it was told."""

    def redirect_request(self, *_: object, **__: object) -> None:
        """Refuse to go elsewhere."""


def is_web_address(address: str) -> bool:
    """Return whether an address can be posted to."""
    try:
        parts = urlsplit(address)
        return parts.scheme in ("http", "https") and bool(parts.hostname) and parts.port != 0
    except ValueError:
        return False


def post_hook(address: str, message: Mapping[str, object]) -> None:
    """Post a message.

    Raises
    ------
    NotSent
        If nobody answers there, or with something else than success.
    """
    if not is_web_address(address):
        raise NotSent("its address is none of the web")
    request = Request(  # noqa: S310  (http and https only, as seen above)
        address, data=json.dumps(message).encode(), headers={"Content-Type": "application/json"}, method="POST"
    )
    try:
        with build_opener(_NoRedirect).open(request, timeout=TIMEOUT_S) as answer:
            if answer.status >= 300:
                raise NotSent(f"the web hook answered {answer.status}")
    except (URLError, OSError, ValueError) as error:
        raise NotSent(f"the web hook did not take it ({type(error).__name__})") from error
