"""Make the table fit."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE fit (
    home_id VARCHAR(24) NOT NULL,
    room_id VARCHAR(24) NOT NULL,
    at_ms BIGINT NOT NULL,
    revision INTEGER NOT NULL,
    document MEDIUMBLOB NOT NULL,
    PRIMARY KEY (home_id, room_id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
