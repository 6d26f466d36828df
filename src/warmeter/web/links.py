"""Paths of pages by the names of their routes; templates and views link by these alone."""

from collections.abc import Iterable
from functools import cache
from hashlib import sha256
from pathlib import Path
from urllib.parse import urlencode

from fastapi import APIRouter
from fastapi.routing import APIRoute

STATIC = Path(__file__).parent / "static"
_ROUTES: dict[str, APIRoute] = {}


def take_routes(routers: Iterable[APIRouter]) -> None:
    """Take the routes of the application, once they are all there."""
    _ROUTES.update({r.name: r for router in routers for r in router.routes if isinstance(r, APIRoute)})


def url_for(name: str, /, **parts: object) -> str:
    """Return the path of a route by its name and the parts of its path."""
    return str(_ROUTES[name].url_path_for(name, **parts))


@cache
def static_url(name: str) -> str:
    """Return the address of a style, script or picture with a digest of its bytes: a browser keeps it for good."""
    return f"/static/{name}?v={sha256((STATIC / name).read_bytes()).hexdigest()[:12]}"


def link(name: str, home_id: str, **query: str) -> str:
    """Return the path of a page of a home with what its address asks for."""
    path = url_for(name, home_id=home_id)
    return f"{path}?{urlencode(query)}" if query else path
