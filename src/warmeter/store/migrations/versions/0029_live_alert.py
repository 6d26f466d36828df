"""Keep alerts, one for one cause."""

from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_alert (
    id BIGINT NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    cause VARCHAR(80) NOT NULL,
    begun_ms BIGINT NOT NULL,
    ended_ms BIGINT,
    closed_ms BIGINT,
    text VARCHAR(400) NOT NULL,
    detail TEXT NOT NULL,
    PRIMARY KEY (id),
    UNIQUE (home_id, cause, begun_ms),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
