"""A team writes the codes of its databases into its syntaxes"""

import sqlalchemy as sa
from alembic import op

revision = '0005'
down_revision = '0004'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'syntax_profile',
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('key', sa.String(), nullable=False),
        sa.Column('text', sa.String(), nullable=False),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.PrimaryKeyConstraint('review_id', 'key'),
    )


def downgrade() -> None:
    op.drop_table('syntax_profile')
