"""Protocols are amended: every version is kept; frameworks, registration, the earlier review, limits of a search"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = '0006'
down_revision = '0005'
branch_labels = None
depends_on = None

TEXTS = ('types', 'update_of', 'registered_in', 'registration_number')


def upgrade() -> None:
    op.add_column('review', sa.Column('framework', sa.String(), nullable=False, server_default='free'))
    for name in TEXTS:
        op.add_column('review', sa.Column(name, sa.String(), nullable=False, server_default=''))
    op.add_column('review', sa.Column('updates_from', sa.Date(), nullable=True))
    op.add_column('review', sa.Column('registered_on', sa.Date(), nullable=True))
    op.add_column('search', sa.Column('limits', sa.String(), nullable=False, server_default=''))
    for table, name in (('review', 'framework'), *(('review', name) for name in TEXTS), ('search', 'limits')):
        op.alter_column(table, name, server_default=None)
    op.create_table(
        'amendment',
        sa.Column('id', sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column('review_id', sa.BigInteger(), nullable=False),
        sa.Column('account_id', sa.BigInteger(), nullable=False),
        sa.Column('version', sa.Integer(), nullable=False),
        sa.Column('reason', sa.String(), nullable=False),
        sa.Column('protocol', postgresql.JSONB(), nullable=False),
        sa.Column('at', sa.DateTime(timezone=True), server_default=sa.text('now()'), nullable=False),
        sa.ForeignKeyConstraint(['account_id'], ['account.id']),
        sa.ForeignKeyConstraint(['review_id'], ['review.id']),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index('ix_amendment_review_version', 'amendment', ['review_id', 'version'], unique=True)
    # what reviews say so far is their first version, by the lead who made them
    op.execute("""
        INSERT INTO amendment (review_id, account_id, version, reason, at, protocol)
        SELECT r.id, (SELECT m.account_id FROM member m WHERE m.review_id = r.id ORDER BY m.role <> 'lead', m.joined_at, m.account_id LIMIT 1), 1, 'As it stood when versions began', now(),
            jsonb_build_object('title', r.title, 'question', r.question, 'year_from', r.year_from, 'year_to', r.year_to, 'languages', r.languages,
                'elements', (SELECT coalesce(jsonb_agg(jsonb_build_object('label', e.label, 'terms', e.terms) ORDER BY e.position), '[]') FROM element e WHERE e.review_id = r.id),
                'criteria', (SELECT coalesce(jsonb_agg(jsonb_build_object('name', c.name, 'wording', c.wording, 'first', c.first, 'second', c.second) ORDER BY c.position), '[]')
                    FROM criterion c WHERE c.review_id = r.id AND c.removed_at IS NULL),
                'sources', (SELECT coalesce(jsonb_agg(jsonb_build_object('name', s.name, 'kind', s.kind) ORDER BY s.position), '[]') FROM planned_source s WHERE s.review_id = r.id))
        FROM review r WHERE EXISTS (SELECT 1 FROM member m WHERE m.review_id = r.id)
    """)


def downgrade() -> None:
    op.drop_table('amendment')
    op.drop_column('search', 'limits')
    for name in ('registered_on', 'updates_from', *reversed(TEXTS), 'framework'):
        op.drop_column('review', name)
