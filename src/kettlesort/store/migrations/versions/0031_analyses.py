"""Analyses that pool what is charted, by version"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0031'
down_revision = '0030'
branch_labels = None
depends_on = None

ID = sa.BigInteger()
NOW = sa.text('clock_timestamp()')


def upgrade() -> None:
    op.create_table(
        'analysis',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        sa.Column('review_id', ID, sa.ForeignKey('review.id'), nullable=False),
        sa.Column('position', sa.Integer(), nullable=False),
        sa.Column('removed_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_analysis_review_id', 'analysis', ['review_id'])
    op.create_table(
        'analysis_version',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        sa.Column('analysis_id', ID, sa.ForeignKey('analysis.id'), nullable=False),
        sa.Column('content', postgresql.JSONB(), nullable=False),
        sa.Column('account_id', ID, sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=NOW, nullable=False),
    )
    op.create_index('ix_analysis_version_analysis_id', 'analysis_version', ['analysis_id'])


def downgrade() -> None:
    op.drop_table('analysis_version')
    op.drop_table('analysis')
