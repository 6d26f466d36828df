"""The tables. Times are integer milliseconds UTC; documents are JSON, compressed."""

from sqlalchemy import (
    BigInteger,
    Column,
    ForeignKey,
    Index,
    Integer,
    LargeBinary,
    MetaData,
    String,
    Table,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.mysql import BINARY, MEDIUMBLOB, MEDIUMTEXT

METADATA = MetaData()
_BLOB = LargeBinary().with_variant(MEDIUMBLOB(), "mysql")
_TEXT = Text().with_variant(MEDIUMTEXT(), "mysql")
_HOME = "home.id"

HOME = Table(
    "home",
    METADATA,
    Column("id", String(24), primary_key=True),
    Column("name", String(80), nullable=False),
    Column("revision", Integer, nullable=False),
    Column("as_of_ms", BigInteger),
    Column("taken_away_ms", BigInteger),
    # Counts what changes beside the revision: events, fits, jobs, names, the instant that counts as now.
    Column("changes", Integer, nullable=False, server_default="0"),
    # Kept at each import.
    Column("first_reading_ms", BigInteger),
    Column("last_reading_ms", BigInteger),
    Column("last_climate_ms", BigInteger),
    Column("series_count", Integer, nullable=False, server_default="0"),
    # What a list says of it, as JSON, and of which revision.
    Column("listed", Text),
    Column("listed_revision", Integer, nullable=False, server_default="0"),
    # What was last worked out of what matters in it, as JSON.
    Column("matters", Text),
)
REVISION = Table(
    "home_revision",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("number", Integer, primary_key=True),
    Column("parent", Integer, nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("author", String(80), nullable=False),
    Column("summary", String(400), nullable=False),
    Column("fold", String(120), nullable=False),
    Column("undoes", Integer),
    Column("import_id", Integer),
    Column("name", String(80), nullable=False, server_default=""),
    Column("document", _BLOB, nullable=False),
)
SERIES = Table(
    "series",
    METADATA,
    Column("id", Integer, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("quantity", String(40), nullable=False),
    Column("unit", String(12), nullable=False),
    Column("kind", String(12), nullable=False),
    Column("stamp", String(12), nullable=False),
    Column("step_s", Integer, nullable=False),
    Column("longest_hold_s", Integer, nullable=False),
    Column("subject", String(24), nullable=False),
    UniqueConstraint("home_id", "quantity", "unit", "kind", "stamp", "step_s", "subject"),
)
CHUNK = Table(
    "reading_chunk",
    METADATA,
    Column("series_id", Integer, ForeignKey("series.id", ondelete="CASCADE"), primary_key=True),
    Column("day", Integer, primary_key=True),
    Column("count", Integer, nullable=False),
    Column("first_ms", BigInteger, nullable=False),
    Column("last_ms", BigInteger, nullable=False),
    Column("data", _BLOB, nullable=False),
)
IMPORT = Table(
    "reading_import",
    METADATA,
    Column("id", Integer, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("file_name", String(200), nullable=False),
    Column("digest", String(64), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("author", String(80), nullable=False),
    Column("added", Integer, nullable=False),
    Column("taken_back_ms", BigInteger),
    Column("plan", Text, nullable=False),
)
TAKEN_BACK = Table(
    "reading_taken_back",
    METADATA,
    Column("import_id", Integer, ForeignKey("reading_import.id", ondelete="CASCADE"), primary_key=True),
    Column("series_id", Integer, ForeignKey("series.id", ondelete="CASCADE"), primary_key=True),
    Column("day", Integer, primary_key=True),
    Column("data", _BLOB, nullable=False),
)
REPLACED = Table(
    "reading_replaced",
    METADATA,
    Column("import_id", Integer, ForeignKey("reading_import.id", ondelete="CASCADE"), primary_key=True),
    Column("series_id", Integer, ForeignKey("series.id", ondelete="CASCADE"), primary_key=True),
    Column("day", Integer, primary_key=True),
    Column("data", _BLOB, nullable=False),
)
EVENT = Table(
    "event",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("kind", String(40), nullable=False),
    Column("subject", String(24), nullable=False),
    Column("revision", Integer, nullable=False),
    Column("detail", Text, nullable=False),
    Index("event_by_home", "home_id", "at_ms"),
)
FIT = Table(
    "fit",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("room_id", String(24), primary_key=True),
    Column("at_ms", BigInteger, nullable=False),
    Column("revision", Integer, nullable=False),
    Column("document", _BLOB, nullable=False),
)
JOB = Table(
    "job",
    METADATA,
    Column("id", Integer, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("kind", String(40), nullable=False),
    Column("subject", String(24), nullable=False),
    Column("state", String(12), nullable=False),
    Column("percent", Integer, nullable=False),
    Column("sentence", String(400), nullable=False),
    Column("revision", Integer, nullable=False),
    Column("attempts", Integer, nullable=False),
    Column("is_stop_asked", Integer, nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Index("job_by_state", "state", "id"),
)
JOB_RESULT = Table(
    "job_result",
    METADATA,
    Column("job_id", Integer, ForeignKey("job.id", ondelete="CASCADE"), primary_key=True),
    Column("request", Text, nullable=False),
    Column("document", _BLOB),
)
MATTERS_SEEN = Table(
    "matters_seen",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("browser", String(32), primary_key=True),
    Column("seen_ms", BigInteger, nullable=False),
    Column("seen", _TEXT, nullable=False),
    Column("last_ms", BigInteger),
    Column("last", _TEXT),
)
PHOTO = Table(
    "photo",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("about_id", String(24), nullable=False),
    Column("step", String(80), nullable=False),
    Column("taken_ms", BigInteger, nullable=False),
    Column("author", String(80), nullable=False),
    Column("width", Integer, nullable=False),
    Column("height", Integer, nullable=False),
    Column("removed_ms", BigInteger),
    Column("data", _BLOB, nullable=False),
    Index("photo_by_home", "home_id", "id"),
)
KEPT_PAGE = Table(
    "kept_page",
    METADATA,
    Column("digest", LargeBinary(32).with_variant(BINARY(32), "mysql"), primary_key=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("body", _BLOB, nullable=False),
    Index("kept_page_by_time", "at_ms"),
)
