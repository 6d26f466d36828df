"""Make the table reading_import."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE reading_import (
    id INTEGER NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    file_name VARCHAR(200) NOT NULL,
    digest VARCHAR(64) NOT NULL,
    at_ms BIGINT NOT NULL,
    author VARCHAR(80) NOT NULL,
    added INTEGER NOT NULL,
    taken_back_ms BIGINT,
    plan TEXT NOT NULL,
    PRIMARY KEY (id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
