"""Topics and patterns of topics, as MQTT 3.1.1 defines them (4.7)."""

from collections.abc import Sequence

from warmeter.core.errors import ReadingError

MAXIMUM_LENGTH, MAXIMUM_LEVELS = 200, 20


def check_topic(topic: str) -> None:
    """See that a topic can be sent to.

    Raises
    ------
    ReadingError
        If it is empty, too long, has a wildcard or a character that none may have.
    """
    _check_text(topic)
    if "+" in topic or "#" in topic:
        raise ReadingError(f"{topic!r} is a pattern; a message goes to one topic, without + and #")


def check_pattern(pattern: str) -> None:
    """See that a pattern can be listened to.

    Raises
    ------
    ReadingError
        If + or # do not stand alone between slashes, or # is not last.
    """
    _check_text(pattern)
    levels = pattern.split("/")
    for place, level in enumerate(levels):
        if ("+" in level or "#" in level) and len(level) > 1:
            raise ReadingError(f"in {pattern!r} the sign + or # stands alone between slashes, as in home/+/state")
        if level == "#" and place < len(levels) - 1:
            raise ReadingError(f"in {pattern!r} # stands for all that follows, so it comes last")


def _check_text(topic: str) -> None:
    if not topic or len(topic) > MAXIMUM_LENGTH:
        raise ReadingError(f"a topic has 1 to {MAXIMUM_LENGTH} characters")
    if not topic.isprintable():
        raise ReadingError("a topic has no control characters")
    if topic.count("/") >= MAXIMUM_LEVELS:
        raise ReadingError(f"a topic has at most {MAXIMUM_LEVELS} words between slashes")


def is_matching(pattern: str, topic: str) -> bool:
    """Return whether a topic falls under a pattern; topics that begin with $ fall under no wildcard at the start.

    References
    ----------
    MQTT 3.1.1, 4.7.1 and 4.7.2.
    """
    return are_levels_matching(pattern.split("/"), topic.split("/"))


def are_levels_matching(wanted: Sequence[str], levels: Sequence[str]) -> bool:
    """Return what ``is_matching`` does, of a pattern and a topic that were cut at their slashes."""
    if levels[0].startswith("$") and wanted[0] in ("+", "#"):
        return False
    for place, level in enumerate(wanted):
        if level == "#":
            return True
        if place >= len(levels) or level not in ("+", levels[place]):
            return False
    return len(wanted) == len(levels)


def level_of(topic: str, place: int) -> str:
    """Return a word of a topic by its place from 0 on, "" where there is none."""
    levels = topic.split("/")
    return levels[place] if place < len(levels) else ""
