"""Values that an extractor read for themselves, who extracts what by two, and who reads which study"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0029'
down_revision = '0028'
branch_labels = None
depends_on = None

ID = sa.BigInteger()
HOW = "how IN ('typed', 'pasted', 'marked', 'accepted', 'changed', 'derived', 'carried'{})"


def upgrade() -> None:
    op.add_column('value', sa.Column('reader_id', ID, sa.ForeignKey('account.id'), nullable=True))
    op.create_index('ix_value_read', 'value', ['review_id', 'id'], postgresql_where=sa.text('reader_id IS NOT NULL'))
    op.drop_constraint('how_is_known', 'value')
    op.create_check_constraint('how_is_known', 'value', HOW.format(", 'agreed', 'settled'"))
    op.execute('CREATE VIEW charted AS SELECT * FROM value WHERE reader_id IS NULL')
    op.create_table(
        'extraction_mode',
        sa.Column('id', ID, sa.Identity(), primary_key=True),
        sa.Column('review_id', ID, sa.ForeignKey('review.id'), nullable=False),
        sa.Column('second', sa.String(), nullable=False),
        sa.Column('blind', sa.Boolean(), nullable=False),
        sa.Column('rounding', sa.Boolean(), nullable=False),
        sa.Column('letters', sa.Boolean(), nullable=False),
        sa.Column('settling', sa.String(), nullable=False),
        sa.Column('items', postgresql.JSONB(), nullable=True),
        sa.Column('studies', postgresql.JSONB(), nullable=True),
        sa.Column('account_id', ID, sa.ForeignKey('account.id'), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('clock_timestamp()'), nullable=False),
        sa.CheckConstraint("second IN ('nobody', 'person', 'proposals')", name='second_is_known'),
        sa.CheckConstraint("settling IN ('third', 'talk')", name='settling_is_known'),
    )
    op.create_index('ix_extraction_mode_review', 'extraction_mode', ['review_id', 'id'])
    op.create_table(
        'extractor',
        sa.Column('study_id', ID, sa.ForeignKey('study.id'), primary_key=True),
        sa.Column('account_id', ID, sa.ForeignKey('account.id'), primary_key=True),
        sa.Column('review_id', ID, sa.ForeignKey('review.id'), nullable=False),
    )
    op.create_index('ix_extractor_review_id', 'extractor', ['review_id'])


def downgrade() -> None:
    op.drop_table('extractor')
    op.drop_table('extraction_mode')
    op.execute('DROP VIEW charted')
    op.execute("DELETE FROM value WHERE reader_id IS NOT NULL OR how IN ('agreed', 'settled')")
    op.drop_constraint('how_is_known', 'value')
    op.create_check_constraint('how_is_known', 'value', HOW.format(''))
    op.drop_index('ix_value_read', 'value')
    op.drop_column('value', 'reader_id')
