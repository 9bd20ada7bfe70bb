"""The records of a large file that is set aside leave in parts"""

from alembic import op

revision = '0036'
down_revision = '0035'
branch_labels = None
depends_on = None

STATES = "state IN ('waiting', 'reading', 'read', 'failed', 'taken', {}'aside')"


def upgrade() -> None:
    op.drop_constraint('state_is_known', 'batch')
    op.create_check_constraint('state_is_known', 'batch', STATES.format("'leaving', "))


def downgrade() -> None:
    op.execute("UPDATE batch SET state = 'taken' WHERE state = 'leaving'")
    op.drop_constraint('state_is_known', 'batch')
    op.create_check_constraint('state_is_known', 'batch', STATES.format(''))
