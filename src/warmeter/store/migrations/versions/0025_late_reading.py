"""Keep when readings that came late were heard."""

from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE late_reading (
    series_id INTEGER NOT NULL,
    at_ms BIGINT NOT NULL,
    heard_ms BIGINT NOT NULL,
    PRIMARY KEY (series_id, at_ms),
    FOREIGN KEY(series_id) REFERENCES series (id) ON DELETE CASCADE
)
""")
