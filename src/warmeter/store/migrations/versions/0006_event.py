"""Make the table event."""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE event (
    id BIGINT NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    at_ms BIGINT NOT NULL,
    kind VARCHAR(40) NOT NULL,
    subject VARCHAR(24) NOT NULL,
    revision INTEGER NOT NULL,
    detail TEXT NOT NULL,
    PRIMARY KEY (id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE,
    INDEX event_by_home (home_id, at_ms)
)
""")
