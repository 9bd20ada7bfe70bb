"""Controlled vocabularies of a team"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0007'
down_revision = '0006'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'vocabulary',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('filename', sa.String(), nullable=False),
        sa.Column('sha256', sa.String(), nullable=False),
        sa.Column('state', sa.String(), nullable=False),
        sa.Column('failure', sa.String(), nullable=False),
        sa.Column('problems', postgresql.JSONB(), nullable=False),
        sa.Column('removed_at', sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.ForeignKeyConstraint(['sha256'], ['blob.sha256']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_vocabulary_review_id'), 'vocabulary', ['review_id'])
    op.create_table(
        'heading',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('vocabulary_id', sa.BigInteger(), nullable=False),
        sa.Column('uri', sa.String(), nullable=False),
        sa.Column('label', sa.String(), nullable=False),
        sa.Column('scope_note', sa.String(), nullable=False),
        sa.Column('history_note', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['vocabulary_id'], ['vocabulary.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_heading_vocabulary_id'), 'heading', ['vocabulary_id'])
    op.create_table(
        'heading_name',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('heading_id', sa.BigInteger(), nullable=False),
        sa.Column('name', sa.String(), nullable=False),
        sa.Column('words', sa.String(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['heading_id'], ['heading.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_heading_name_heading_id'), 'heading_name', ['heading_id'])
    op.create_index(op.f('ix_heading_name_words'), 'heading_name', ['words'])
    op.create_table(
        'heading_link',
        sa.Column('from_id', sa.BigInteger(), nullable=False),
        sa.Column('to_id', sa.BigInteger(), nullable=False),
        sa.Column('kind', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['from_id'], ['heading.id']),
        sa.ForeignKeyConstraint(['to_id'], ['heading.id']),
        sa.PrimaryKeyConstraint('from_id', 'to_id', 'kind'),
    )
    op.create_index('ix_heading_link_to_id', 'heading_link', ['to_id'])


def downgrade() -> None:
    for table in ('heading_link', 'heading_name', 'heading', 'vocabulary'):
        op.drop_table(table)
