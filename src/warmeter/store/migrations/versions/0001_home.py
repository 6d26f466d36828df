"""Make the table home."""

from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE home (
    id VARCHAR(24) NOT NULL,
    name VARCHAR(80) NOT NULL,
    revision INTEGER NOT NULL,
    as_of_ms BIGINT,
    PRIMARY KEY (id)
)
""")
