"""What was read from the database within one request is not read again, unless something was saved meanwhile."""

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

_MEMO: ContextVar[dict[Hashable, object] | None] = ContextVar("memo", default=None)
_Found = TypeVar("_Found")


@contextmanager
def remembering() -> Iterator[None]:
    """Remember within the block, and in the threads that it hands work to."""
    token = _MEMO.set({})
    try:
        yield
    finally:
        _MEMO.reset(token)


def remembered(key: Hashable, read: Callable[[], _Found]) -> _Found:
    """Return what was read for a key within this request, reading it at first."""
    memo = _MEMO.get()
    if memo is None:
        return read()
    if key not in memo:
        memo[key] = read()
    return memo[key]  # type: ignore[return-value]


def forget() -> None:
    """Forget all that was read within this request."""
    memo = _MEMO.get()
    if memo is not None:
        memo.clear()
