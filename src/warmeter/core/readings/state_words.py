"""Words that logs use for states: open and closed, on and off, home and away, heating and idle."""

from warmeter.core.quantity import QUANTITIES

YES = frozenset(
    {"1", "on", "open", "opened", "true", "yes", "wet", "leak", "detected", "moving", "motion", "pressed", "in", "home"}
    | {"occupied", "present", "at home", "in bed", "ein", "offen", "auf", "active"}
)
NO = frozenset(
    {"0", "off", "closed", "close", "shut", "false", "no", "dry", "clear", "still", "idle", "released", "out", "away"}
    | {"empty", "not_home", "not home", "absent", "unoccupied", "aus", "zu", "geschlossen", "inactive", "no motion"}
)
# By quantity, the words of its states as numbers of QUANTITIES[...].states, the narrowest first.
STATE_WORDS: dict[str, dict[str, int]] = {
    "is_open": {"open": 1, "opened": 1, "closed": 0, "close": 0, "shut": 0},
    "is_home": {"home": 1, "away": 0, "not_home": 0, "not home": 0, "at home": 1, "present": 1, "absent": 0},
    "is_wet": {"wet": 1, "leak": 1, "dry": 0},
    "is_moving": {"moving": 1, "motion": 1, "still": 0, "clear": 0, "no motion": 0, "detected": 1},
    "is_in_bed": {"in bed": 1, "occupied": 1, "empty": 0},
    "is_in": {"occupied": 1, "unoccupied": 0, "empty": 0, "in": 1, "out": 0},
    "heating_state": {
        "idle": 0,
        "off": 0,
        "on": 1,
        "standby": 0,
        "heating": 1,
        "heat": 1,
        "cooling": 2,
        "cool": 2,
        "drying": 3,
    }
    | {"dry": 3, "fan": 4, "fan_only": 4, "defrosting": 5, "defrost": 5, "preheating": 1},
    "device_mode": {"off": 0, "heat": 1, "cool": 2, "auto": 3, "automatic": 3, "heat_cool": 3, "dry": 4, "fan": 5}
    | {"fan_only": 5},
}


def is_state_word(text: str) -> bool:
    """Return whether a text is a word, not a number, for one of two states."""
    return not text.strip().isdecimal() and text.strip().lower() in YES | NO


def is_word_of_states(text: str) -> bool:
    """Return whether a text is a word for a state of some quantity."""
    word = text.strip().lower()
    return is_state_word(text) or any(word in codes for codes in STATE_WORDS.values())


def without_state_words(text: str, quantity: str) -> str:
    """Return the number of a state for its word, any other text as it is.

    Examples
    --------
    >>> without_state_words("Open", "is_open"), without_state_words("cool", "device_mode")
    ('1', '2')
    >>> without_state_words("7", "is_open")
    '7'
    """
    word = text.lower()
    if not QUANTITIES[quantity].is_two_states:
        codes = STATE_WORDS.get(quantity, {})
        return str(codes[word]) if word in codes else text
    return "1" if word in YES else "0" if word in NO else text
