"""PDFs that are delivered in a heap, and those that are taken off again"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0022'
down_revision = '0021'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('full_text', sa.Column('taken_off_at', sa.DateTime(timezone=True), nullable=True))
    op.create_table(
        'delivered',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('filename', sa.String(), nullable=False),
        sa.Column('sha256', sa.String(), sa.ForeignKey('blob.sha256'), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('says', sa.String(), nullable=False),
        sa.Column('pages', sa.Integer(), nullable=False),
        sa.Column('problem', sa.String(), nullable=False),
        sa.Column('proposals', postgresql.JSONB(), nullable=False),
        sa.Column('dropped_as', sa.String(), nullable=False),
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=True),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint(
            "state IN ('waiting', 'placed', 'asked', 'unplaced', 'twice', 'refused', 'unpacked', 'dropped')", name='state_is_known'
        ),
    )
    op.create_index('ix_delivered_state', 'delivered', ['review_id', 'state'])


def downgrade() -> None:
    op.drop_table('delivered')
    op.drop_column('full_text', 'taken_off_at')
