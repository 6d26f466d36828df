"""Routes of links: topics heard, mappings tried on live traffic, commands, senders adopted and refused, tokens, HTTP."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from annotated_types import Ge, Le, Len
from fastapi import APIRouter, Depends, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse, Response
from pydantic import ValidationError

from warmeter.core.edits.link_commands import (
    HearSender,
    KeepCommandMapping,
    KeepMessageMapping,
    MapUsualTopics,
    ReadoptSender,
    RefuseSender,
    RemoveCommandMapping,
    RemoveMessageMapping,
    SetLinkSettings,
    typed_mapping,
)
from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.home.part import part_names
from warmeter.core.link.mapping_choice import tried
from warmeter.core.link.message_reading import REFUSAL_WORDS
from warmeter.core.quantity import QUANTITIES
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN, S_PER_MIN, UNITS_OF
from warmeter.service.live.http_intake import Batch, BatchAnswer, home_of_bearer, new_token, take_batch
from warmeter.service.live.intake import patterns_of
from warmeter.service.live.live_now import home_now_ms, unknown_topics
from warmeter.service.live.places import broker_told
from warmeter.store.live_homes import KeptTopic, LinkToken
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, render
from warmeter.web.saving import Commands, save_form

router = APIRouter()
COMMANDS: Commands = {
    "settings": SetLinkSettings,
    "keep": KeepMessageMapping,
    "remove": RemoveMessageMapping,
    "keep-command": KeepCommandMapping,
    "remove-command": RemoveCommandMapping,
    "usual": MapUsualTopics,
    "readopt": ReadoptSender,
    "refuse": RefuseSender,
    "hear": HearSender,
}
MOST_TOPICS, MOST_TRIED = 200, 12


@dataclass(frozen=True, slots=True, kw_only=True)
class TopicRow:
    """A topic that was heard: how often, its rhythm, its last words, what was refused, whose it may be."""

    topic: str
    count: int
    rhythm: str
    last: str
    ago: str
    spread: str
    stored: int
    refused: str
    perhaps: str
    is_first: bool
    device_id: str
    old_word: str
    new_word: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TriedRow:
    """A message that falls under the mapping that is tried: what would be kept of it, or why nothing."""

    topic: str
    time: str
    text: str
    outcome: str
    is_kept: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MappingRow:
    """A mapping that is kept: topic, what it becomes, of what, how many were kept of it."""

    id: str
    topic: str
    quantity: str
    subject: str
    stored: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LinksPage(Page):
    """Links of a home: what comes, what is made of it, what goes."""

    home: Home
    query: dict[str, str]
    tab: str
    broker: str
    listens: tuple[str, ...]
    mappings: tuple[MappingRow, ...]
    unknown: tuple[TopicRow, ...]
    commands: tuple[CommandMapping, ...]
    names: Mapping[str, str]
    tried: tuple[TriedRow, ...]
    trial: dict[str, str]
    trial_fault: str
    quantities: tuple[tuple[str, str, str], ...]
    subjects: tuple[tuple[str, str], ...]
    targets: tuple[tuple[str, str], ...]
    groups: tuple[tuple[str, str], ...]
    tokens: tuple[LinkToken, ...]
    fresh_token: str
    http_url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialForm:
    """A mapping as it is being tried."""

    topic: Annotated[str, Len(0, 200)] = ""
    payload: Annotated[str, Len(0, 10)] = "number"
    path: Annotated[str, Len(0, 80)] = ""
    time_path: Annotated[str, Len(0, 80)] = ""
    quantity: Annotated[str, Len(0, 40)] = ""
    subject_id: Annotated[str, Len(0, 24)] = ""
    unit: Annotated[str, Len(0, 12)] = ""
    scale: Annotated[float, Ge(-1e6), Le(1e6)] = 1.0
    offset: Annotated[float, Ge(-1e6), Le(1e6)] = 0.0
    words: Annotated[str, Len(0, 400)] = ""


def links_page(request: Request, home_id: str, fresh_token: str = "") -> Response:
    """Return the links page, or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    topics = app.live_homes.topics(home_id)
    query = {k: v for k, v in request.query_params.items() if k in TrialForm.__dataclass_fields__}
    found, fault = _trial(home, topics, query, app.clock(home))
    names = part_names(home.rooms, home.devices, home.appliances, home.heaters, home.people)
    page = LinksPage(
        frame=frame_of(request, home, revision, "live"),
        home=home,
        query=query,
        tab="links",
        broker=broker_told(app.uploads.parent, home_id),
        listens=patterns_of(home),
        mappings=_mapping_rows(home, topics, names),
        unknown=_unknown_rows(home, topics, home_now_ms(app, home_id)),
        commands=home.command_mappings,
        names=names,
        tried=found,
        trial=query,
        trial_fault=fault,
        quantities=tuple((q.key, q.label, ", ".join(UNITS_OF[q.key])) for q in QUANTITIES.values()),
        subjects=tuple(part_names(home.rooms, home.devices, home.appliances).items()),
        targets=tuple(part_names(home.command_targets).items()),
        groups=tuple(part_names(home.notification_groups).items()),
        tokens=tuple(app.live_homes.tokens(home_id)),
        fresh_token=fresh_token,
        http_url=f"{str(request.base_url).rstrip('/')}/link/readings",
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "live/_links.html" if is_fragment(request) else "live/links.html", page)


def _trial(
    home: Home, topics: list[KeptTopic], query: dict[str, str], clock: LocalClock
) -> tuple[tuple[TriedRow, ...], str]:
    """Return what the mapping that is typed would make of what was heard, or what is wrong with it."""
    if not query.get("topic") or not query.get("quantity"):
        return (), ""
    try:
        form = read_form(TrialForm, query)
        values = {name: getattr(form, name) for name in TrialForm.__dataclass_fields__ if name != "words"}
        mapping = typed_mapping(values, form.words, "tried")
        heard = {t.topic: [(int(at), str(text)) for at, text in t.detail["messages"]] for t in topics}
        rows = tried(home, mapping, heard, MOST_TRIED)
    except WarmeterError as error:
        return (), str(error)
    return tuple(
        TriedRow(
            topic=row.topic,
            time=show.clock_now(row.heard_ms, clock),
            text=row.text[:60],
            outcome=row.why if row.reading is None else f"{row.reading.value:g} {mapping.unit}",
            is_kept=row.reading is not None,
        )
        for row in rows
    ), "" if rows else "Nothing was heard under this topic yet."


def _mapping_rows(home: Home, topics: list[KeptTopic], names: Mapping[str, str]) -> tuple[MappingRow, ...]:
    stored = {t.topic: int(t.detail.get("stored", 0)) for t in topics}
    return tuple(
        MappingRow(
            id=m.id,
            topic=m.topic,
            quantity=QUANTITIES[m.quantity].label,
            subject=names.get(m.subject_id, "by its topic" if m.address_level is not None else "the home"),
            stored=stored.get(m.topic, 0),
        )
        for m in home.message_mappings
    )


def _unknown_rows(home: Home, topics: list[KeptTopic], now_ms: int) -> tuple[TopicRow, ...]:
    rows: list[TopicRow] = []
    for topic in unknown_topics(home, topics)[:MOST_TOPICS]:
        detail = topic.detail
        rhythm = detail.get("rhythm_s")
        device_id, old_word, new_word = _perhaps(home, topic.topic)
        known = {d.id: d.name for d in home.devices}
        low, high = detail.get("low", {}), detail.get("high", {})
        spread = ", ".join(f"{k.removeprefix('$.') or 'value'} {low[k]:g} to {high[k]:g}" for k in list(low)[:3])
        refused = detail.get("refused", {})
        rows.append(
            TopicRow(
                topic=topic.topic,
                count=int(detail["count"]),
                rhythm=""
                if rhythm is None
                else show.duration(rhythm / S_PER_MIN)
                if rhythm >= S_PER_MIN
                else f"{rhythm:.0f} s",
                last=str(detail["messages"][-1][1])[:80] if detail["messages"] else "",
                ago=show.duration(max(0, now_ms - topic.last_ms) / MS_PER_MIN),
                spread=spread,
                stored=int(detail.get("stored", 0)),
                refused=", ".join(f"{n} {_refusal(kind)}" for kind, n in refused.items()),
                perhaps=known.get(device_id, ""),
                is_first=bool(device_id) and all(row.new_word != new_word for row in rows),
                device_id=device_id,
                old_word=old_word,
                new_word=new_word,
            )
        )
    return tuple(rows)


def _refusal(kind: str) -> str:
    return "beyond its bound" if kind == "flood" else next((w for k, w in REFUSAL_WORDS.items() if k == kind), kind)


def _perhaps(home: Home, topic: str) -> tuple[str, str, str]:
    """Return the device that an unknown topic may be, with its old and its new word: all words but one are a mapping's."""
    words = topic.split("/")
    for mapping in home.message_mappings:
        own = mapping.topic.split("/")
        if len(own) != len(words) or not mapping.subject_id or mapping.topic == topic:
            continue
        differing = [k for k, (a, b) in enumerate(zip(own, words, strict=True)) if a != b]
        if len(differing) == 1:
            old, new = own[differing[0]], words[differing[0]]
            if new.startswith(old) or old.startswith(new):
                return mapping.subject_id, old, new
    return "", "", ""


@router.get("/homes/{home_id}/live/links", name="live_links")
def live_links(request: Request, home_id: str) -> Response:
    """Show a home's links."""
    return links_page(request, home_id)


@router.post("/homes/{home_id}/live/links/{command}", name="links_edit")
def links_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on links."""
    save_form(request, home_id, texts, COMMANDS, command)
    return links_page(request, home_id) if is_fragment(request) else back_to(request, "live_links", home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenForm:
    """A token that is made (by its name) or ended (by its number)."""

    name: Annotated[str, Len(0, 80)] = ""
    id: Annotated[int, Ge(0), Le(2**53)] = 0


@router.post("/homes/{home_id}/live/token", name="live_token")
def live_token(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Make a token, which is told once, or end one."""
    app = app_of(request)
    form = read_form(TokenForm, texts)
    token = ""
    if form.id:
        app.live_homes.end_token(home_id, form.id, app.now_ms())
    else:
        token = new_token(app, home_id, form.name.strip() or "HTTP link")
    return links_page(request, home_id, token)


async def body_of(request: Request) -> bytes:
    """Return a request's body as it came."""
    return await request.body()


_SAYS = "application/json"
_DESCRIBED = {
    "requestBody": {"required": True, "content": {_SAYS: {"schema": Batch.model_json_schema()}}},
    "security": [{"bearer": []}],
}


@router.post(
    "/link/readings",
    name="link_readings",
    response_model=BatchAnswer,
    responses={
        401: {"description": "No token of a home"},
        422: {"description": "The batch cannot be read: why, where"},
    },
    openapi_extra=_DESCRIBED,
)
def link_readings(request: Request, body: Annotated[bytes, Depends(body_of)]) -> Response:
    """Take a batch of readings and messages of the home that the token opens; each (series, time) is kept once."""
    app = app_of(request)
    home_id = home_of_bearer(app, request.headers.get("authorization", ""))
    if home_id is None:
        return JSONResponse({"why": "no token of a home; make one under Live, Links"}, status_code=401)
    try:
        batch = Batch.model_validate_json(body)
    except ValidationError as error:
        first = error.errors(include_url=False, include_input=False)[0]
        where = ".".join(str(part) for part in first["loc"])
        return JSONResponse({"why": first["msg"], "where": where, "kept": 0}, status_code=422)
    return JSONResponse(take_batch(app, home_id, batch).model_dump())


@router.get("/link/openapi.json", name="link_openapi")
def link_openapi() -> Response:
    """Return how the HTTP link is spoken to, as OpenAPI."""
    routes = [route for route in router.routes if getattr(route, "name", "") == "link_readings"]
    described = get_openapi(title="Warmeter link", version="1", routes=routes)
    described.setdefault("components", {})["securitySchemes"] = {"bearer": {"type": "http", "scheme": "bearer"}}
    return JSONResponse(described)
