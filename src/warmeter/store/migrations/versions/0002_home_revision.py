"""Make the table home_revision."""

from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE home_revision (
    home_id VARCHAR(24) NOT NULL,
    number INTEGER NOT NULL,
    parent INTEGER NOT NULL,
    at_ms BIGINT NOT NULL,
    author VARCHAR(80) NOT NULL,
    summary VARCHAR(400) NOT NULL,
    fold VARCHAR(120) NOT NULL,
    undoes INTEGER,
    import_id INTEGER,
    document MEDIUMBLOB NOT NULL,
    PRIMARY KEY (home_id, number),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
