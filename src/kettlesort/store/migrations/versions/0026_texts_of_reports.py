"""What reports say, to be asked; questions that are kept"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0026'
down_revision = '0025'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'report_text',
        sa.Column('copy_id', sa.BigInteger(), sa.ForeignKey('copy.id'), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('sha256', sa.String(), sa.ForeignKey('blob.sha256'), nullable=True),
        sa.Column('passages', postgresql.JSONB(), nullable=False),
    )
    op.create_index('ix_report_text_review_id', 'report_text', ['review_id'])
    op.create_table(
        'kept_question',
        sa.Column('id', sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('text', sa.String(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.Column('removed_at', sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index('ix_kept_question_review_id', 'kept_question', ['review_id'])


def downgrade() -> None:
    op.drop_table('kept_question')
    op.drop_table('report_text')
