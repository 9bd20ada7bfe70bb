"""The order of records is rows; a time is that of the writing, not of the beginning of its transaction"""

import sqlalchemy as sa
from alembic import op

revision = '0013'
down_revision = '0012'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'place',
        sa.Column('review_id', sa.BigInteger(), sa.ForeignKey('review.id'), nullable=False),
        sa.Column('version', sa.BigInteger(), nullable=False),
        sa.Column('rank', sa.Integer(), nullable=False),
        sa.Column('record_id', sa.BigInteger(), nullable=False),
        sa.Column('closeness', sa.Float(), nullable=False),
        sa.PrimaryKeyConstraint('review_id', 'version', 'rank'),
    )
    op.create_index('ix_place_record_id', 'place', ['record_id'])
    op.add_column('ranking', sa.Column('version', sa.BigInteger(), nullable=False, server_default='1'))
    op.alter_column('ranking', 'version', server_default=None)
    op.execute(
        """INSERT INTO place (review_id, version, rank, record_id, closeness) SELECT o.review_id, 1, u.rank, u.id, u.closeness
        FROM ranking o, unnest(o.record_ids, o.closeness) WITH ORDINALITY u(id, closeness, rank)"""
    )
    op.drop_column('ranking', 'record_ids')
    op.drop_column('ranking', 'closeness')
    op.add_column('ruling', sa.Column('stroke', sa.BigInteger(), nullable=True))
    op.add_column('ruling', sa.Column('replaced_by', sa.BigInteger(), sa.ForeignKey('ruling.id'), nullable=True))
    op.create_index('ix_ruling_replaced_by', 'ruling', ['replaced_by'])
    op.execute(
        """UPDATE ruling s SET replaced_by = d.id FROM ruling d WHERE s.same AND NOT s.by_rule AND NOT d.same AND NOT d.by_rule
        AND d.left_copy = s.left_copy AND d.right_copy = s.right_copy AND d.at = s.withdrawn_at"""
    )
    op.execute(
        """UPDATE ruling r SET stroke = f.id FROM (SELECT min(id) AS id, review_id, account_id, at FROM ruling
            WHERE NOT same AND NOT by_rule GROUP BY review_id, account_id, at HAVING count(*) > 1) f
        WHERE NOT r.same AND NOT r.by_rule AND r.review_id = f.review_id AND r.account_id = f.account_id AND r.at = f.at"""
    )
    op.add_column('narrowed', sa.Column('with_all', sa.Boolean(), nullable=False, server_default=sa.false()))
    op.execute('UPDATE narrowed d SET with_all = TRUE FROM narrowing n WHERE n.id = d.narrowing_id AND d.released_at = n.withdrawn_at')
    op.alter_column('narrowed', 'with_all', server_default=None)
    _times('now()', 'clock_timestamp()')


def _times(before: str, after: str) -> None:
    op.execute(
        f"""DO $$ DECLARE it record; BEGIN
        FOR it IN SELECT table_name, column_name FROM information_schema.columns WHERE table_schema = 'public' AND column_default = '{before}'
            AND table_name NOT LIKE 'procrastinate%' LOOP
            EXECUTE format('ALTER TABLE %I ALTER COLUMN %I SET DEFAULT {after}', it.table_name, it.column_name);
        END LOOP; END $$"""
    )
