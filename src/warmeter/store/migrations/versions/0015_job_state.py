"""Find the jobs that wait without looking at all."""

from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Find the jobs that wait without looking at all."""
    op.execute("""
CREATE INDEX job_by_state ON job (state, id)
""")
