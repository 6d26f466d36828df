"""The tables. Times are integer milliseconds UTC; documents are JSON, compressed."""

from sqlalchemy import (
    BigInteger,
    Column,
    Float,
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
LIVE_HOME = Table(
    "live_home",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    # Its clock: an instant of the machine's, what the home's showed then, and how fast it runs.
    Column("real_ms", BigInteger, nullable=False, server_default="0"),
    Column("home_ms", BigInteger, nullable=False, server_default="0"),
    Column("speed", Float(53), nullable=False, server_default="1"),
    # Since when rules are followed [ms, home], who writes, and until when [ms, machine].
    Column("since_ms", BigInteger, nullable=False, server_default="0"),
    Column("holder", String(64), nullable=False, server_default=""),
    Column("lease_ms", BigInteger, nullable=False, server_default="0"),
    # Counts what a live page shows; when the writer last looked [ms, machine and home], what the link says, as JSON.
    Column("version", BigInteger, nullable=False, server_default="0"),
    Column("looked_ms", BigInteger, nullable=False, server_default="0"),
    Column("looked_home_ms", BigInteger, nullable=False, server_default="0"),
    Column("told", _TEXT),
)
LIVE_READING = Table(
    "live_reading",
    METADATA,
    Column("series_id", Integer, ForeignKey("series.id", ondelete="CASCADE"), primary_key=True, autoincrement=False),
    Column("at_ms", BigInteger, primary_key=True, autoincrement=False),
    Column("value", Float(53), nullable=False),
    Column("heard_ms", BigInteger, nullable=False),
    Column("real_ms", BigInteger, nullable=False),
    Column("message_id", Integer, nullable=False, server_default="0"),
)
LATE_READING = Table(
    "late_reading",
    METADATA,
    Column("series_id", Integer, ForeignKey("series.id", ondelete="CASCADE"), primary_key=True, autoincrement=False),
    Column("at_ms", BigInteger, primary_key=True, autoincrement=False),
    Column("heard_ms", BigInteger, nullable=False),
)
HEARD_TOPIC = Table(
    "heard_topic",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("topic", String(200), primary_key=True),
    Column("last_ms", BigInteger, nullable=False),
    Column("detail", _TEXT, nullable=False),
)
LIVE_FIRING = Table(
    "live_firing",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("rule_id", String(24), primary_key=True),
    Column("at_ms", BigInteger, primary_key=True, autoincrement=False),
    Column("end_ms", BigInteger),
    Column("why", String(20), nullable=False),
    # When it was seen [ms, home]; what it switches, and the states in which it was found, as JSON.
    Column("seen_ms", BigInteger, nullable=False),
    Column("found", Text, nullable=False),
)
LIVE_COMMAND = Table(
    "live_command",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("target_id", String(24), nullable=False),
    Column("does", String(12), nullable=False),
    Column("mapping_id", String(24), nullable=False),
    Column("value", Float(53), nullable=False),
    Column("reason", String(400), nullable=False),
    Column("kind", String(20), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("state", String(12), nullable=False),
    Column("made_ms", BigInteger, nullable=False),
    Column("sent_ms", String(200), nullable=False),
    Column("answered_ms", BigInteger),
    # Whether its witness should then run, where only that can tell.
    Column("expects", Integer),
    Index("live_command_by_target", "home_id", "target_id", "does", "id"),
)
LIVE_ALERT = Table(
    "live_alert",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    # What it is about: a rule with its firing, a device gone quiet, a command lost; one alert for one cause.
    Column("cause", String(80), nullable=False),
    Column("begun_ms", BigInteger, nullable=False),
    Column("ended_ms", BigInteger),
    Column("closed_ms", BigInteger),
    Column("text", String(400), nullable=False),
    Column("detail", Text, nullable=False),
    UniqueConstraint("home_id", "cause", "begun_ms"),
)
LIVE_TELLING = Table(
    "live_telling",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("alert_id", BigInteger, ForeignKey("live_alert.id", ondelete="CASCADE"), nullable=False),
    Column("group_id", String(24), nullable=False),
    Column("channel_id", String(24), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("real_ms", BigInteger, nullable=False),
    Column("state", String(12), nullable=False),
    Column("delay_ms", BigInteger),
    Column("why", String(200), nullable=False),
    UniqueConstraint("alert_id", "group_id", "channel_id", "at_ms"),
)
LIVE_ANSWER = Table(
    "live_answer",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("alert_id", BigInteger, ForeignKey("live_alert.id", ondelete="CASCADE"), nullable=False),
    Column("at_ms", BigInteger, nullable=False),
    Column("kind", String(12), nullable=False),
    Column("by_whom", String(80), nullable=False),
    Column("until_ms", BigInteger, nullable=False),
    Column("label", String(40), nullable=False),
)
LINK_TOKEN = Table(
    "link_token",
    METADATA,
    Column("id", BigInteger, primary_key=True, autoincrement=True),
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), nullable=False),
    Column("name", String(80), nullable=False),
    Column("digest", String(64), nullable=False, unique=True),
    Column("made_ms", BigInteger, nullable=False),
    Column("used_ms", BigInteger),
    Column("ended_ms", BigInteger),
)
CHANNEL_ADDRESS = Table(
    "channel_address",
    METADATA,
    Column("home_id", String(24), ForeignKey(_HOME, ondelete="CASCADE"), primary_key=True),
    Column("channel_id", String(24), primary_key=True),
    Column("address", String(400), nullable=False),
)
