"""Make the table reading_chunk."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE reading_chunk (
    series_id INTEGER NOT NULL,
    day INTEGER NOT NULL,
    count INTEGER NOT NULL,
    first_ms BIGINT NOT NULL,
    last_ms BIGINT NOT NULL,
    data MEDIUMBLOB NOT NULL,
    PRIMARY KEY (series_id, day),
    FOREIGN KEY(series_id) REFERENCES series (id) ON DELETE CASCADE
)
""")
