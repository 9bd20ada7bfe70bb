"""An analysis names what it leaves out by key: a study, or one comparison of it"""

from alembic import op

revision = '0034'
down_revision = '0033'
branch_labels = None
depends_on = None

AS = """UPDATE analysis_version v SET content = jsonb_set(v.content, '{{left_out}}',
    (SELECT coalesce(jsonb_agg({as_}), '[]'::jsonb) FROM jsonb_array_elements_text(v.content -> 'left_out') x {where}))
    WHERE jsonb_typeof(v.content -> 'left_out') = 'array'"""


def upgrade() -> None:
    op.execute(AS.format(as_='to_jsonb(x)', where=''))


def downgrade() -> None:
    op.execute(AS.format(as_='to_jsonb(CAST(x AS bigint))', where="WHERE position(':' in x) = 0"))
