"""Who may come in: this machine's user by its own connection, others by the key of the printed address."""

import os
import secrets
from pathlib import Path

from starlette.requests import Request
from starlette.responses import RedirectResponse, Response

COOKIE, QUERY = "wm_key", "key"
YEAR_S = 31_536_000
_TCP = Path("/proc/net/tcp")


def made_key(data_dir: Path) -> str:
    """Return the key of a data folder, made at its first start and readable by its owner alone."""
    path = data_dir / "key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(24), encoding="utf-8")
    return path.read_text(encoding="utf-8").strip()


def may_enter(request: Request, key: str) -> bool:
    """Return whether a request may be answered: there is no key, it brings the key, or it is the server's own user's."""
    return brings_key(request, key) or request.url.path.startswith("/static/") or is_own_user(request)


def let_in(request: Request, key: str) -> Response | None:
    """Return the answer to the printed address, which leaves the key in the browser; None for any other."""
    if not key or request.method != "GET" or not _is_key(request.query_params.get(QUERY, ""), key):
        return None
    answer = RedirectResponse(request.url.path, 303)
    leave_key(answer, key)
    return answer


def brings_key(request: Request, key: str) -> bool:
    """Return whether a browser brings the key that was left in it, or none is needed."""
    return not key or _is_key(request.cookies.get(COOKIE, ""), key)


def leave_key(answer: Response, key: str) -> None:
    """Leave the key in a browser that was let in."""
    answer.set_cookie(COOKIE, key, max_age=YEAR_S, httponly=True, samesite="strict")


def is_own_user(request: Request) -> bool:
    """Return whether the other end of a connection on loopback belongs to the server's own user, as the kernel tells."""
    client, server = request.scope.get("client"), request.scope.get("server")
    if client is None or server is None or client[0] != "127.0.0.1":
        return False
    return _owner_of(int(client[1]), int(server[1])) == os.getuid()


def _owner_of(from_port: int, to_port: int) -> int | None:
    """Return the user whose connection goes from a port of loopback to another, None if there is none."""
    loopback = "0100007F"
    wanted = f"{loopback}:{from_port:04X}", f"{loopback}:{to_port:04X}"
    try:
        rows = _TCP.read_text(encoding="ascii").splitlines()[1:]
    except OSError:
        return None
    for row in rows:
        fields = row.split()
        if (fields[1], fields[2]) == wanted:
            return int(fields[7])
    return None


def _is_key(given: str, key: str) -> bool:
    return secrets.compare_digest(given.encode(errors="surrogatepass"), key.encode())
