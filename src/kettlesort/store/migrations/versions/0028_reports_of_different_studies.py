"""Reports that a person called ones of different studies"""

import sqlalchemy as sa
from alembic import op

revision = '0028'
down_revision = '0027'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'told_apart',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('left_copy', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        sa.Column('right_copy', sa.BigInteger(), sa.ForeignKey('copy.id'), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('withdrawn_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_told_apart_review_id', 'told_apart', ['review_id'])


def downgrade() -> None:
    op.drop_table('told_apart')
