"""Keep when rules fired live."""

from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE live_firing (
    home_id VARCHAR(24) NOT NULL,
    rule_id VARCHAR(24) NOT NULL,
    at_ms BIGINT NOT NULL,
    end_ms BIGINT,
    why VARCHAR(20) NOT NULL,
    seen_ms BIGINT NOT NULL,
    found TEXT NOT NULL,
    PRIMARY KEY (home_id, rule_id, at_ms),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
