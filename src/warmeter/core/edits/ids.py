"""Ids of new parts."""

import secrets


def new_id() -> str:
    """Return a short random id."""
    return secrets.token_hex(4)
