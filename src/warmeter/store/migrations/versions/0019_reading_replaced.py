"""Keep the readings that an import has replaced."""

from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE reading_replaced (
    import_id INTEGER NOT NULL,
    series_id INTEGER NOT NULL,
    day INTEGER NOT NULL,
    data MEDIUMBLOB NOT NULL,
    PRIMARY KEY (import_id, series_id, day),
    FOREIGN KEY(import_id) REFERENCES reading_import (id) ON DELETE CASCADE,
    FOREIGN KEY(series_id) REFERENCES series (id) ON DELETE CASCADE
)
""")
