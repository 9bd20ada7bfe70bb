"""Queries are tried and kept"""

import sqlalchemy as sa
from alembic import op

revision = '0003'
down_revision = '0002'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'query_step',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), nullable=False),
        sa.Column('text', sa.String(), nullable=False),
        sa.Column('note', sa.String(), nullable=False),
        sa.Column('version', sa.Integer(), nullable=True),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id']),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_query_step_review_id'), 'query_step', ['review_id'])


def downgrade() -> None:
    op.drop_table('query_step')
