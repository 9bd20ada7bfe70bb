"""Attempts to sign in are looked up by name and time, and by address and time"""

from alembic import op

revision = '0014'
down_revision = '0013'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.drop_index('ix_attempt_name', 'attempt')
    op.drop_index('ix_attempt_address', 'attempt')
    op.create_index('ix_attempt_name_at', 'attempt', ['name', 'at'])
    op.create_index('ix_attempt_address_at', 'attempt', ['address', 'at'])
