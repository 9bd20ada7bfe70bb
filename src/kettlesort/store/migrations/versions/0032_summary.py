"""The summary table of a review, by version"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0032'
down_revision = '0031'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'summary_version',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('content', postgresql.JSONB(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
    )
    op.create_index('ix_summary_version_review_id', 'summary_version', ['review_id'])


def downgrade() -> None:
    op.drop_table('summary_version')
