"""Values that fill what no copy of a record holds"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0010'
down_revision = '0009'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'supplement',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('copy_id', sa.BigInteger(), nullable=False),
        sa.Column('field', sa.String(), nullable=False),
        sa.Column('value', postgresql.JSONB(), nullable=False),
        sa.Column('source', sa.String(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.Column('withdrawn_at', sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(['account_id'], ['account.id']),
        sa.ForeignKeyConstraint(['copy_id'], ['copy.id']),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_supplement_review_id'), 'supplement', ['review_id'])
    op.create_index(op.f('ix_supplement_copy_id'), 'supplement', ['copy_id'])


def downgrade() -> None:
    op.drop_table('supplement')
