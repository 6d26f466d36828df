"""Words that logs use for a sensor of two states: open and closed, on and off, wet and dry."""

YES = {
    "1",
    "on",
    "open",
    "opened",
    "true",
    "yes",
    "wet",
    "leak",
    "detected",
    "moving",
    "motion",
    "pressed",
    "in",
    "home",
    "occupied",
}
NO = {
    "0",
    "off",
    "closed",
    "close",
    "shut",
    "false",
    "no",
    "dry",
    "clear",
    "still",
    "idle",
    "released",
    "out",
    "away",
    "empty",
}


def is_state_word(text: str) -> bool:
    """Return whether a text is a word, not a number, for one of two states."""
    return not text.strip().isdecimal() and text.strip().lower() in YES | NO


def without_state_words(text: str) -> str:
    """Return "1" or "0" for a word of a state, any other text as it is.

    Examples
    --------
    >>> without_state_words("Open"), without_state_words("dry"), without_state_words("7")
    ('1', '0', '7')
    """
    word = text.lower()
    return "1" if word in YES else "0" if word in NO else text
