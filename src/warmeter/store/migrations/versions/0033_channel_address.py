"""Keep the addresses of channels."""

from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE channel_address (
    home_id VARCHAR(24) NOT NULL,
    channel_id VARCHAR(24) NOT NULL,
    address VARCHAR(400) NOT NULL,
    PRIMARY KEY (home_id, channel_id),
    FOREIGN KEY(home_id) REFERENCES home (id) ON DELETE CASCADE
)
""")
