"""Keep readings as they come in, until they are laid into day chunks."""

from alembic import op

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_reading (
    series_id INTEGER NOT NULL,
    at_ms BIGINT NOT NULL,
    value FLOAT(53) NOT NULL,
    heard_ms BIGINT NOT NULL,
    real_ms BIGINT NOT NULL,
    message_id INTEGER NOT NULL DEFAULT '0',
    PRIMARY KEY (series_id, at_ms),
    FOREIGN KEY(series_id) REFERENCES series (id) ON DELETE CASCADE
)
""")
