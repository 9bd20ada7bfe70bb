"""Copies are counted by batch, and those that are not the kept one apart"""

import sqlalchemy as sa
from alembic import op

revision = '0002'
down_revision = '0001'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index('ix_placement_batch', 'placement', ['review_id', 'batch_id'])
    op.create_index('ix_placement_surplus', 'placement', ['review_id', 'batch_id'], postgresql_where=sa.text('copy_id <> record_id'))
    op.drop_index('ix_placement_review_batch', table_name='placement')


def downgrade() -> None:
    op.create_index('ix_placement_review_batch', 'placement', ['review_id', 'batch_id', 'copy_id', 'record_id'])
    op.drop_index('ix_placement_surplus', table_name='placement')
    op.drop_index('ix_placement_batch', table_name='placement')
