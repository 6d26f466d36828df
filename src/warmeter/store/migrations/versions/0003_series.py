"""Make the table series."""

from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE series (
    id INTEGER NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    quantity VARCHAR(40) NOT NULL,
    unit VARCHAR(12) NOT NULL,
    kind VARCHAR(12) NOT NULL,
    stamp VARCHAR(12) NOT NULL,
    step_s INTEGER NOT NULL,
    longest_hold_s INTEGER NOT NULL,
    subject VARCHAR(24) NOT NULL,
    PRIMARY KEY (id),
    UNIQUE (home_id, quantity, unit, kind, stamp, step_s, subject),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
