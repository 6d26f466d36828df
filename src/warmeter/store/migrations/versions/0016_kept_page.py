"""Make the table of pages that were drawn once, for every server process."""

from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE kept_page (
    digest BINARY(32) NOT NULL,
    home_id VARCHAR(24) NOT NULL,
    at_ms BIGINT NOT NULL,
    body MEDIUMBLOB NOT NULL,
    PRIMARY KEY (digest),
    INDEX kept_page_by_time (at_ms),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
