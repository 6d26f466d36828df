"""Make the table job."""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE job (
    id INTEGER NOT NULL AUTO_INCREMENT,
    home_id VARCHAR(24) NOT NULL,
    kind VARCHAR(40) NOT NULL,
    subject VARCHAR(24) NOT NULL,
    state VARCHAR(12) NOT NULL,
    percent INTEGER NOT NULL,
    sentence VARCHAR(400) NOT NULL,
    revision INTEGER NOT NULL,
    attempts INTEGER NOT NULL,
    is_stop_asked INTEGER NOT NULL,
    at_ms BIGINT NOT NULL,
    PRIMARY KEY (id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
