"""Give revisions a name."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Add the column."""
    op.execute("ALTER TABLE home_revision ADD COLUMN name VARCHAR(80) NOT NULL DEFAULT ''")
