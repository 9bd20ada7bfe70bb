"""Orders of records other than that by closeness"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0021'
down_revision = '0020'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'other_order',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.Column('said', postgresql.JSONB(), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('failure', sa.String(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint("kind IN ('shuffled', 'newest', 'oldest', 'unsure', 'question', 'alike')", name='kind_is_known'),
        sa.CheckConstraint("state IN ('waiting', 'ready', 'failed')", name='state_is_known'),
    )
    op.create_index('ix_other_order_review_id', 'other_order', ['review_id'])
    op.create_table(
        'other_place',
        sa.Column('order_id', sa.BigInteger(), sa.ForeignKey('other_order.id'), primary_key=True),
        sa.Column('rank', sa.Integer(), primary_key=True),
        sa.Column('record_id', sa.BigInteger(), nullable=False),
        sa.Column('score', sa.Float(), nullable=True),
        sa.Column('begin', sa.Integer(), nullable=False),
        sa.Column('end', sa.Integer(), nullable=False),
    )
    op.create_index('ix_other_place_record', 'other_place', ['record_id', 'order_id'])


def downgrade() -> None:
    op.drop_table('other_place')
    op.drop_table('other_order')
