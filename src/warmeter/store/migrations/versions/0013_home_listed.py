"""Keep with a home what lists of homes say, and what tells that a page of it is as it was."""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Keep with a home what lists of homes say, and what tells that a page of it is as it was."""
    op.execute("""
ALTER TABLE home
    ADD COLUMN changes INTEGER NOT NULL DEFAULT 0,
    ADD COLUMN first_reading_ms BIGINT,
    ADD COLUMN last_reading_ms BIGINT,
    ADD COLUMN series_count INTEGER NOT NULL DEFAULT 0,
    ADD COLUMN listed TEXT,
    ADD COLUMN listed_revision INTEGER NOT NULL DEFAULT 0
""")
