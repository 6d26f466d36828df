"""Keep the readings of an import that is taken back, so that they can be brought back."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE reading_taken_back (
    import_id INTEGER NOT NULL,
    series_id INTEGER NOT NULL,
    day INTEGER NOT NULL,
    data MEDIUMBLOB NOT NULL,
    PRIMARY KEY (import_id, series_id, day),
    FOREIGN KEY(import_id) REFERENCES reading_import (id) ON DELETE CASCADE,
    FOREIGN KEY(series_id) REFERENCES series (id) ON DELETE CASCADE
)
""")
