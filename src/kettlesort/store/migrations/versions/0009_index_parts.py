"""The index of a review's records is kept in parts"""

import sqlalchemy as sa
from alembic import op

revision = '0009'
down_revision = '0008'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'index_part',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('format', sa.Integer(), nullable=False),
        sa.Column('records', sa.LargeBinary(), nullable=False),
        sa.Column('marks', sa.LargeBinary(), nullable=False),
        sa.Column('data', sa.LargeBinary(), nullable=False),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index(op.f('ix_index_part_review_id'), 'index_part', ['review_id'])
    for column in ('records', 'marks', 'data'):
        op.execute(f'ALTER TABLE index_part ALTER {column} SET STORAGE EXTERNAL')  # packing it again would only take time


def downgrade() -> None:
    op.drop_table('index_part')
