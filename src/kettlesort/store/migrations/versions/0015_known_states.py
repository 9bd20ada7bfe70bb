"""States are known ones, numbers of searches are given once, and what is looked up by a reference has an index"""

import sqlalchemy as sa
from alembic import op

revision = '0015'
down_revision = '0014'
branch_labels = None
depends_on = None

KNOWN = [
    ('batch', 'state', ('waiting', 'reading', 'read', 'failed', 'taken', 'aside')),
    ('search_run', 'state', ('', 'fetching', 'done', 'failed', 'cancelled')),
    ('search', 'kind', ('database', 'register', 'website', 'organisation', 'citation')),
    ('job', 'state', ('waiting', 'working', 'done', 'failed', 'cancelled')),
    ('vocabulary', 'state', ('waiting', 'read', 'failed')),
    ('trial', 'state', ('waiting', 'ready', 'failed', 'applied', 'undone')),
    ('gap', 'state', ('proposed', 'taken', 'left')),
    ('verdict', 'verdict', ('include', 'exclude', 'unsure')),
    ('verdict', 'pass_number', (1, 2)),
    ('full_text', 'state', ('sought', 'obtained', 'missing')),
    ('standing', 'first', ('open', 'unsure', 'include', 'exclude', 'aside')),
    ('standing', 'fulltext', ('sought', 'obtained', 'missing')),
    ('standing', 'second', ('open', 'unsure', 'include', 'exclude')),
    ('member', 'role', ('lead', 'reviewer', 'observer')),
    ('account', 'theme', ('light', 'dark')),
    ('attempt', 'kind', ('sign_in', 'account')),
    ('schedule', 'every', ('once', 'daily', 'weekly', 'monthly')),
]
INDEXES = [
    ('batch', 'ix_batch_sha256', ['sha256']), ('question', 'ix_question_left_copy', ['left_copy']), ('question', 'ix_question_right_copy', ['right_copy']),
    ('placement', 'ix_placement_batch_id', ['batch_id']), ('member', 'ix_member_account_id', ['account_id']), ('event', 'ix_event_kind', ['review_id', 'kind', 'id']),
    ('value', 'ix_value_item_id', ['item_id']), ('verdict', 'ix_verdict_criterion_id', ['criterion_id']), ('schedule', 'ix_schedule_search_id', ['search_id']),
]


def upgrade() -> None:
    for table, column, values in KNOWN:
        said = ', '.join(repr(value) for value in values)
        op.create_check_constraint(f'{column}_is_known', table, f'{column} IN ({said})')
    op.create_unique_constraint('search_review_id_number_key', 'search', ['review_id', 'number'])
    op.create_unique_constraint('search_run_search_id_number_key', 'search_run', ['search_id', 'number'])
    for table, name, columns in INDEXES:
        op.create_index(name, table, columns)
    op.add_column('checked_pair', sa.Column('ruling_id', sa.BigInteger(), sa.ForeignKey('ruling.id'), nullable=True))
