"""The base is safe: strict Content-Security-Policy, known hosts only, no posts from elsewhere, bounded bodies."""

from collections.abc import Awaitable, Callable
from urllib.parse import urlsplit

from starlette.requests import Request
from starlette.responses import PlainTextResponse, Response

CSP = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}
MAX_FORM_BYTES = 512 * 1024
MAX_UPLOAD_BYTES = 66 * 1024 * 1024
MOST_DIGITS = 12
_SAFE = {"GET", "HEAD", "OPTIONS"}
Next = Callable[[Request], Awaitable[Response]]


def host_name(header: str) -> str:
    """Return the host of a Host header without its port."""
    return header.rsplit(":", 1)[0] if not header.endswith("]") and ":" in header else header


def refusal(request: Request) -> str | None:
    """Return why a request is refused, None if it is not."""
    host = request.headers.get("host", "")
    if host_name(host) not in LOOPBACK:
        return "This address is not Warmeter's. Open the one that it printed at its start."
    if request.method in _SAFE:
        return None
    if _is_foreign(request, host):
        return "This form was sent from another site, so nothing was done."
    length = request.headers.get("content-length", "0")
    limit = MAX_UPLOAD_BYTES if request.url.path.endswith("/upload") else MAX_FORM_BYTES
    is_number = length.isdecimal() and len(length) <= MOST_DIGITS
    if not is_number or int(length) > limit or "transfer-encoding" in request.headers:
        return "This is larger than Warmeter takes at once, so nothing was done."
    return None


def _is_foreign(request: Request, host: str) -> bool:
    """Return whether a request that changes something came from elsewhere: by its origin, else by what sent it there."""
    headers = request.headers
    came_from = headers.get("origin") or headers.get("referer")
    if came_from is not None and _netloc(came_from) != host:
        return True
    return "origin" not in headers and headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none")


def _netloc(address: str) -> str | None:
    """Return the host and port of an address, None where it is none."""
    try:
        return urlsplit(address).netloc
    except ValueError:
        return None


async def guard(request: Request, call_next: Next) -> Response:
    """Refuse what must be refused, and put the headers on everything else."""
    why = refusal(request)
    response = PlainTextResponse(why, status_code=403) if why else await call_next(request)
    response.headers["Content-Security-Policy"] = CSP
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if not request.url.path.startswith("/static/"):
        response.headers["Cache-Control"] = "no-store"
    return response
