"""Records are ordered by how often they were cited, too"""

from alembic import op

revision = '0033'
down_revision = '0032'
branch_labels = None
depends_on = None

KINDS = "'shuffled', 'newest', 'oldest', 'unsure', 'question', 'alike'"


def upgrade() -> None:
    op.drop_constraint('kind_is_known', 'other_order')
    op.create_check_constraint('kind_is_known', 'other_order', f"kind IN ({KINDS}, 'cited')")


def downgrade() -> None:
    op.execute("DELETE FROM other_place WHERE order_id IN (SELECT id FROM other_order WHERE kind = 'cited')")
    op.execute("DELETE FROM other_order WHERE kind = 'cited'")
    op.drop_constraint('kind_is_known', 'other_order')
    op.create_check_constraint('kind_is_known', 'other_order', f'kind IN ({KINDS})')
