"""Descriptors of copies and records, each once and in one spelling, so that lists divide and narrow by them without reading every keyword anew"""

from alembic import op

revision = '0039'
down_revision = '0038'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("""CREATE FUNCTION descriptors_of(keywords text[]) RETURNS text[] LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$
        SELECT coalesce(array_agg(DISTINCT d.name ORDER BY d.name) FILTER (WHERE d.name <> ''), '{}')
        FROM (SELECT lower(btrim(split_part(k, '/', 1), ' *')) AS name FROM unnest(keywords) k) d $$""")
    for table in ('copy', 'record'):
        op.execute(f"ALTER TABLE {table} ADD COLUMN descriptors text[] GENERATED ALWAYS AS (descriptors_of(keywords)) STORED NOT NULL")


def downgrade() -> None:
    for table in ('copy', 'record'):
        op.drop_column(table, 'descriptors')
    op.execute("DROP FUNCTION descriptors_of(text[])")
