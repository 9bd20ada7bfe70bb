"""Appraisal of studies by a form of the team's own"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0030'
down_revision = '0029'
branch_labels = None
depends_on = None

ID = sa.BigInteger()
NOW = sa.text('clock_timestamp()')


def upgrade() -> None:
    op.create_table(
        'appraisal_form',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        sa.Column('review_id', ID, sa.ForeignKey('review.id'), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('content', postgresql.JSONB(), nullable=False),
        sa.Column('account_id', ID, sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=NOW, nullable=False),
    )
    op.create_index('ix_appraisal_form_review', 'appraisal_form', ['review_id', 'number'], unique=True)
    op.create_table(
        'appraisal',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        sa.Column('review_id', ID, sa.ForeignKey('review.id'), nullable=False),
        sa.Column('study_id', ID, sa.ForeignKey('study.id'), nullable=False),
        sa.Column('domain', sa.String(), nullable=False),
        sa.Column('answers', postgresql.JSONB(), nullable=False),
        sa.Column('judgement', sa.String(), nullable=False),
        sa.Column('reason', sa.String(), nullable=False),
        sa.Column('settles', sa.Boolean(), nullable=False),
        sa.Column('account_id', ID, sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=NOW, nullable=False),
    )
    op.create_index('ix_appraisal_review', 'appraisal', ['review_id', 'study_id'])
    op.create_index('ix_appraisal_study_id', 'appraisal', ['study_id'])


def downgrade() -> None:
    op.drop_table('appraisal')
    op.drop_table('appraisal_form')
