"""The application: parts put together, errors turned into pages in one place."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

import anyio
import anyio.to_thread
import numpy as np
from fastapi import FastAPI, Request
from fastapi.middleware.gzip import GZipMiddleware
from fastapi.responses import Response
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.base import BaseHTTPMiddleware
from starlette.types import Receive, Scope, Send

from warmeter.core.errors import WarmeterError
from warmeter.core.kernel_loading import load_kernels
from warmeter.service.app import App
from warmeter.store.engine import DatabaseAway, DatabaseBusy
from warmeter.store.homes import HomeNotFound, HomeUnreadable, NothingToUndo, RevisionConflict
from warmeter.web.bothers import routes as bothers
from warmeter.web.circuits import routes as circuits
from warmeter.web.day_plan import file_routes as day_plan_files
from warmeter.web.day_plan import routes as day_plan
from warmeter.web.devices import routes as devices
from warmeter.web.ducts import routes as ducts
from warmeter.web.find import routes as find
from warmeter.web.form_reader import FormError
from warmeter.web.format import error_words
from warmeter.web.heating import routes as heating
from warmeter.web.homes import as_of_routes, keeping_routes
from warmeter.web.homes import routes as homes
from warmeter.web.homes.keeping_routes import unreadable_page
from warmeter.web.kept_pages import KeptPages
from warmeter.web.links import STATIC, link, static_url, take_routes, url_for
from warmeter.web.live import bench_routes, link_routes, message_routes
from warmeter.web.live import routes as live
from warmeter.web.matters import routes as matters
from warmeter.web.page import TEMPLATES, away_page, conflict_page, error_page, units_of
from warmeter.web.panel import routes as panel
from warmeter.web.people import routes as people
from warmeter.web.radio import routes as radio
from warmeter.web.readings import routes as readings
from warmeter.web.revisions import routes as revisions
from warmeter.web.rules import routes as rules
from warmeter.web.rules import ways_routes as rule_ways
from warmeter.web.security import guard
from warmeter.web.sheet import routes as sheet
from warmeter.web.signatures import routes as signatures
from warmeter.web.step_links import led
from warmeter.web.strip.thin import thinned
from warmeter.web.sun import routes as sun
from warmeter.web.survey import file_routes, plan_routes, record
from warmeter.web.tariff import routes as tariff
from warmeter.web.tariff import use_routes as tariff_use
from warmeter.web.timetable import compare_routes, device_schedule_routes, occasion_routes, overrides_routes
from warmeter.web.timetable import routes as timetable
from warmeter.web.warmup import routes as warmup
from warmeter.web.water import routes as water
from warmeter.web.water import sums as water_sums
from warmeter.web.work import photo_routes
from warmeter.web.work import routes as work
from warmeter.web.zones import routes as zones

LEAST_COMPRESSED = 1024  # bytes
THREADS = 2
FINDERS = 2
# Those whose paths are narrower stand first.
MODULES = (
    file_routes,
    homes,
    keeping_routes,
    as_of_routes,
    matters,
    bothers,
    find,
    plan_routes,
    heating,
    devices,
    circuits,
    day_plan,
    day_plan_files,
    ducts,
    sun,
    panel,
    photo_routes,
    work,
    water_sums,
    water,
    radio,
    record,
    people,
    zones,
    readings,
    occasion_routes,
    overrides_routes,
    compare_routes,
    device_schedule_routes,
    timetable,
    warmup,
    signatures,
    tariff,
    tariff_use,
    rule_ways,
    rules,
    sheet,
    link_routes,
    message_routes,
    bench_routes,
    live,
    revisions,
)


class CompressedPages(GZipMiddleware):
    """Compresses what is sent, but for archives, which are compressed already."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request."""
        is_archive = scope["type"] == "http" and scope["path"].endswith(".zip")
        await (self.app if is_archive else super().__call__)(scope, receive, send)


def create_app(app: App, key: str = "") -> FastAPI:
    """Return the application over the use cases; without a key whoever reaches it may come in."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        anyio.to_thread.current_default_thread_limiter().total_tokens = THREADS
        yield

    web = FastAPI(title="Warmeter", docs_url=None, redoc_url=None, openapi_url=None, lifespan=lifespan)
    web.state.app, web.state.key = app, key
    web.state.pages = KeptPages(app)
    # Of its own, so that a page that is kept does not wait for those that are drawn.
    web.state.finders = anyio.CapacityLimiter(FINDERS)
    web.add_middleware(BaseHTTPMiddleware, dispatch=guard)
    web.add_middleware(CompressedPages, minimum_size=LEAST_COMPRESSED, compresslevel=4)
    web.mount("/static", StaticFiles(directory=STATIC), name="static")
    for module in MODULES:
        web.include_router(module.router)
    take_routes(module.router for module in MODULES)
    TEMPLATES.env.globals |= {"url_for": url_for, "link": link, "led": led}
    TEMPLATES.env.globals["static"] = static_url
    _handle_errors(web)
    return web


def load_all_kernels() -> None:
    """Call every compiled kernel once, those that draw among them: the first call costs half a second from the cache too."""
    load_kernels()
    thinned(np.zeros((4, 2)))


def _handle_errors(web: FastAPI) -> None:
    @web.exception_handler(HomeNotFound)
    def home_not_found(request: Request, error: HomeNotFound) -> Response:
        return error_page(
            request, 404, "This home is not here", f"There is no home {error}.", "Go to the list of homes."
        )

    @web.exception_handler(HomeUnreadable)
    def unreadable(request: Request, error: HomeUnreadable) -> Response:
        return unreadable_page(request, error.home_id, error.number, error.why)

    @web.exception_handler(RevisionConflict)
    def conflict(request: Request, error: RevisionConflict) -> Response:
        return conflict_page(request, error.latest)

    @web.exception_handler(NothingToUndo)
    def nothing(request: Request, _: NothingToUndo) -> Response:
        return error_page(request, 422, "There is nothing to undo", "Only the making of this home is left.", "Go on.")

    @web.exception_handler(DatabaseAway)
    def database_away(request: Request, _: DatabaseAway) -> Response:
        return away_page(request)

    @web.exception_handler(DatabaseBusy)
    def database_busy(request: Request, _: DatabaseBusy) -> Response:
        why = "Others were changing the same at the same time, and it did not get its turn."
        return error_page(request, 503, "This was not done", why, "Nothing was changed. Send it again.")

    @web.exception_handler(WarmeterError)
    def refused(request: Request, error: WarmeterError) -> Response:
        return error_page(
            request,
            422,
            "This was not done",
            error_words(error, units_of(request)),
            "Put it right where it stands and send it again.",
            "Everything as it was; what was typed still stands in its field.",
            error.errors if isinstance(error, FormError) else None,
        )

    @web.exception_handler(HTTPException)
    def http(request: Request, error: HTTPException) -> Response:
        if error.status_code == 404:
            return error_page(request, 404, "There is no such page", "The address is wrong or old.", "Go to the homes.")
        return error_page(request, error.status_code, "This was not done", str(error.detail), "Go back and try again.")
