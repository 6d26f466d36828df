"""Make the table of what jobs were asked and found."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Make the table."""
    op.execute("""
CREATE TABLE job_result (
    job_id INTEGER NOT NULL,
    request TEXT NOT NULL,
    document MEDIUMBLOB,
    PRIMARY KEY (job_id),
    FOREIGN KEY(job_id) REFERENCES job (id) ON DELETE CASCADE
)
""")
