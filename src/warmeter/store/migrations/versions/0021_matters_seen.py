"""Keep what each browser last saw of what matters in a home."""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE matters_seen (
    home_id VARCHAR(24) NOT NULL,
    browser VARCHAR(32) NOT NULL,
    seen_ms BIGINT NOT NULL,
    seen MEDIUMTEXT NOT NULL,
    last_ms BIGINT,
    last MEDIUMTEXT,
    PRIMARY KEY (home_id, browser),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
