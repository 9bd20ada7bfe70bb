"""Groups of records that are alike"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0020'
down_revision = '0019'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'grouping',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('groups', sa.Integer(), nullable=False),
        sa.Column('rarest', sa.Integer(), nullable=False),
        sa.Column('commonest', sa.Float(), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('failure', sa.String(), nullable=False),
        sa.Column('records', sa.Integer(), nullable=False),
        sa.Column('without_abstract', sa.Integer(), nullable=False),
        sa.Column('known', sa.Integer(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint("state IN ('waiting', 'ready', 'failed')", name='state_is_known'),
    )
    op.create_index('ix_grouping_review_id', 'grouping', ['review_id'])
    op.create_table(
        'alike_group',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('grouping_id', sa.BigInteger(), sa.ForeignKey('grouping.id'), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('words', postgresql.JSONB(), nullable=False),
        sa.Column('near', sa.Float(), nullable=True),
        sa.Column('narrowing_id', sa.BigInteger(), sa.ForeignKey('narrowing.id'), nullable=True),
    )
    op.create_index('ix_alike_group_grouping', 'alike_group', ['grouping_id', 'number'])
    op.create_table(
        'grouped',
        sa.Column('group_id', sa.BigInteger(), sa.ForeignKey('alike_group.id'), primary_key=True),
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), primary_key=True),
        sa.Column('place', sa.Integer(), nullable=False),
        sa.Column('closeness', sa.Float(), nullable=False),
    )
    op.create_index('ix_grouped_copy_id', 'grouped', ['copy_id'])


def downgrade() -> None:
    for table in ('grouped', 'alike_group', 'grouping'):
        op.drop_table(table)
