"""Pages of homes that were drawn once and are sent again while nothing that they show has changed."""

import threading
from collections.abc import Awaitable, Callable
from contextlib import suppress
from hashlib import sha256

from anyio.to_thread import run_sync
from cachetools import LRUCache
from starlette.background import BackgroundTask
from starlette.requests import Request
from starlette.responses import Response

from warmeter.service.app import App
from warmeter.store.engine import DatabaseAway
from warmeter.store.homes import HomeStamp

HTML = "text/html; charset=utf-8"
SHOWS_JOB = b"/jobs/"  # how far a job is changes from look to look
MAXIMUM_BYTES = 8 * 1024**2  # in each process; the database keeps more
# What these show lies beside the database, or is done by being asked.
_NEVER = ("/live", "/import/", "/jobs/", "/stored", "/unreadable", "/archive", "/find")
Next = Callable[[Request], Awaitable[Response]]


class KeptPages:
    """The pages asked for last, so many bytes at most, before those that the database keeps; safe for several threads."""

    def __init__(self, app: App, maximum_bytes: int = MAXIMUM_BYTES) -> None:
        self._app = app
        self._pages: LRUCache[bytes, bytes] = LRUCache(maximum_bytes, getsizeof=len)
        self._lock = threading.Lock()

    def find(self, request: Request, home_id: str) -> tuple[bytes, bytes | None]:
        """Return the digest of all that an answer depends on, and the page if it is kept; b"" if it is not to be kept."""
        stamp = self._app.homes.stamp(home_id)
        if stamp is None:
            return b"", None
        digest = digest_of(request, self._app, stamp)
        with self._lock:
            found = self._pages.get(digest)
            if found is not None:
                return digest, found
        found = self._app.pages.get(digest)
        if found is not None:
            self._hold(digest, found)
        return digest, found

    def keep(self, digest: bytes, home_id: str, body: bytes) -> None:
        """Keep a page, here and for the other processes."""
        self._hold(digest, body)
        with suppress(DatabaseAway):
            self._app.pages.keep(digest, home_id, self._app.now_ms(), body)

    def _hold(self, digest: bytes, body: bytes) -> None:
        """Hold a page in memory, letting go of those asked for longest ago."""
        with self._lock, suppress(ValueError):  # one larger than all of it is not held
            self._pages[digest] = body


def home_of(request: Request) -> str | None:
    """Return the home whose page a request asks for, None if its answer is not to be kept."""
    parts = request.url.path.split("/")
    if request.method != "GET" or len(parts) < 4 or parts[1] != "homes" or "notice" in request.query_params:
        return None
    return None if any(word in request.url.path for word in _NEVER) else parts[2]


def digest_of(request: Request, app: App, stamp: HomeStamp) -> bytes:
    """Return a digest of what is asked, by whom and for which window, and of the home as it stands."""
    asked = [request.headers.get(name, "") for name in ("hx-request", "hx-request-type", "x-window")]
    who = [request.cookies.get(name, "") for name in ("wm_name", "wm_width")]
    # A home without a reading lives by the wall clock.
    key = (request.url.path, request.url.query, *asked, *who, stamp, app.now_of(stamp.as_of_ms))
    return sha256(repr(key).encode(errors="surrogatepass")).digest()


async def kept_or_drawn(request: Request, call_next: Next) -> Response:
    """Return a page that was kept, or draw it and keep it if it is whole and says nothing by its headers."""
    pages: KeptPages = request.app.state.pages
    digest, home_id, kept = b"", home_of(request), None
    if home_id is not None:
        with suppress(DatabaseAway):
            digest, kept = await run_sync(pages.find, request, home_id, limiter=request.app.state.finders)
    if kept is not None:
        request.state.is_kept = True
        return Response(kept, media_type=HTML)
    answer = await call_next(request)
    parts = getattr(answer, "body_iterator", None)
    is_plain = set(answer.headers) <= {"content-type", "content-length"} and answer.headers.get("content-type") == HTML
    if not digest or home_id is None or parts is None or not is_plain or answer.status_code != 200:
        return answer
    body = b"".join([part async for part in parts])
    if SHOWS_JOB in body:
        return Response(body, media_type=HTML)
    return Response(body, media_type=HTML, background=BackgroundTask(pages.keep, digest, home_id, body))
