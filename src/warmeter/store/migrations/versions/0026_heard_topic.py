"""Keep what was heard under each topic."""

from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE heard_topic (
    home_id VARCHAR(24) NOT NULL,
    topic VARCHAR(200) NOT NULL,
    last_ms BIGINT NOT NULL,
    detail MEDIUMTEXT NOT NULL,
    PRIMARY KEY (home_id, topic),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
