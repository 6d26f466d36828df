"""How large what comes in may be: the one place where it is set, and how it is told before and in a refusal."""

KB, MB, GB = 1024, 1024**2, 1024**3
FORM_BYTES = 512 * KB  # fields alone
FILE_BYTES = 16 * MB  # a home, its rooms, rules or a timetable
LOG_BYTES = 1 * GB
LOG_LINES = 10_000_000
RECORDS_BYTES = 64 * MB  # of JSON or a broker's lines, made a table in memory
LINE_BYTES = 1 * MB
WRAPPING_BYTES = 64 * KB  # what a form puts around a file


def size_told(size: int) -> str:
    """Return a whole size in words [bytes to GB]."""
    for unit, word in ((GB, "GB"), (MB, "MB"), (KB, "KB")):
        if size >= unit:
            return f"{size / unit:.3g} {word}"
    return f"{size} bytes"


FILE_TOLD = f"up to {size_told(FILE_BYTES)}"
ARCHIVE_TOLD = f"up to {size_told(LOG_BYTES)}"
RECORDS_TOLD = f"up to {size_told(RECORDS_BYTES)}"
LOG_TOLD = f"up to {size_told(LOG_BYTES)} or {LOG_LINES // 1_000_000} million lines"
