"""The base is safe: strict Content-Security-Policy, known hosts only, no posts from elsewhere, bounded bodies."""

import logging
import secrets
import time
from dataclasses import dataclass
from urllib.parse import urlsplit

from starlette.requests import Request
from starlette.responses import Response

from warmeter.service.limits import FILE_BYTES, FORM_BYTES, LOG_BYTES, WRAPPING_BYTES, size_told
from warmeter.service.logfile import note, with_request_id
from warmeter.store.memo import remembering
from warmeter.web.entrance import brings_key, leave_key, let_in, may_enter
from warmeter.web.kept_pages import Next, kept_or_drawn
from warmeter.web.page import error_page

CSP = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}
MOST_DIGITS = 12
LINK = "/link/"  # devices bring a token of their own
KEY_TOLD = "Ask who runs it for the address with its key, printed at its start, and open that one."
_SAFE = {"GET", "HEAD", "OPTIONS"}


def host_name(header: str) -> str:
    """Return the host of a Host header without its port."""
    return header.rsplit(":", 1)[0] if not header.endswith("]") and ":" in header else header


@dataclass(frozen=True, slots=True)
class AccessRefusal:
    """Why a request is refused: its status, the sentence and what to do."""

    status: int
    why: str
    then: str


def refusal(request: Request) -> AccessRefusal | None:
    """Return why a request is refused, None if it is not."""
    host = request.headers.get("host", "")
    if host_name(host) not in LOOPBACK:
        return AccessRefusal(403, "This address is not Warmeter's.", "Open the one that it printed at its start.")
    if request.method in _SAFE:
        return None
    if _is_foreign(request, host):
        return AccessRefusal(
            403, "This form was sent from another site, so nothing was done.", "Open Warmeter's own page."
        )
    length = request.headers.get("content-length", "0")
    limit = _limit(request)
    if "transfer-encoding" in request.headers or not length.isdecimal():
        return AccessRefusal(411, "How large this is was not told, so nothing was done.", "Send it with its length.")
    if len(length) > MOST_DIGITS or int(length) > limit + WRAPPING_BYTES:
        why = f"This is larger than the {size_told(limit)} that are taken here at once, so nothing was done."
        return AccessRefusal(413, why, "Go back and send a smaller one.")
    return None


def _limit(request: Request) -> int:
    """Return how large a request's body may be [bytes]."""
    if request.url.path.startswith(LINK):
        return FILE_BYTES
    if not request.headers.get("content-type", "").startswith("multipart/form-data"):
        return FORM_BYTES
    return LOG_BYTES if request.url.path.endswith(("/import/upload", "/bring-in")) else FILE_BYTES


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


async def _read_away(request: Request) -> None:
    """Read a refused body away, within bounds: a browser shows no answer while it is still sending."""
    size = 0
    async for part in request.stream():
        size += len(part)
        if size > LOG_BYTES:
            return


def _unforeseen(request: Request, error: Exception) -> Response:
    why = f"Something that nobody foresaw: {type(error).__name__}. It stands in the log under this number."
    then = "Go back and look whether it was saved; if it comes again, report it with the number."
    return error_page(request, 500, "This was not done", why, then, "All that was said to be saved.")


async def _answered(request: Request, call_next: Next) -> Response:
    """Refuse what must be refused, and answer the rest, what nobody foresaw too."""
    why, key = refusal(request), request.app.state.key
    if why is None:
        entered = let_in(request, key)
        if entered is not None:
            return entered
        if not (request.url.path.startswith(LINK) or may_enter(request, key)):
            why = AccessRefusal(401, "This Warmeter is another user's of this machine.", KEY_TOLD)
    if why is not None:
        if why.status == 413:
            await _read_away(request)
        return error_page(request, why.status, "This was not done", why.why, why.then)
    try:
        answer = await kept_or_drawn(request, call_next)
        if not (brings_key(request, key) or request.url.path.startswith("/static/")):
            # The kernel need not be asked again whose connection it is.
            leave_key(answer, key)
        return answer
    except Exception as error:
        note("request broke", level=logging.ERROR, error=error)
        return _unforeseen(request, error)


async def guard(request: Request, call_next: Next) -> Response:
    """Answer a request under a number of its own, put the headers on, and note it."""
    begin, request.state.id = time.perf_counter(), secrets.token_hex(6)
    with_request_id(request.state.id)
    with remembering():
        response = await _answered(request, call_next)
    response.headers["X-Request-Id"] = request.state.id
    response.headers["Content-Security-Policy"] = CSP
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if request.url.path.startswith("/static/"):
        # An address with a digest names these very bytes for good; so does a face, which never changes.
        is_fixed = "v" in request.query_params or "/fonts/" in request.url.path
        lasts = "public, max-age=31536000, immutable" if is_fixed else "no-cache"
        response.headers["Cache-Control"] = lasts
    else:
        response.headers["Cache-Control"] = "no-store"
        took_ms = round(1000 * (time.perf_counter() - begin), 1)
        note("request", route=_route_name(request), method=request.method, status=response.status_code, ms=took_ms)
    return response


def _route_name(request: Request) -> str:
    """Return the name of the route that answered: an address may hold what somebody typed."""
    if getattr(request.state, "is_kept", False):
        return "kept page"
    return getattr(request.scope.get("route"), "name", "") or "none"
