"""Why a date moved is kept as keys and figures; what was kept in words stays, as words."""

from django.db import migrations

KEPT = """
UPDATE {table} SET moved = (
    SELECT jsonb_agg(
        one - 'sentence' || jsonb_build_object(
            'reasons', jsonb_build_array(
                jsonb_build_object('key', 'as_told', 'figures', jsonb_build_object('words', one->'sentence'))
            )
        ) ORDER BY place
    ) FROM jsonb_array_elements(moved) WITH ORDINALITY AS t(one, place)
) WHERE jsonb_array_length(moved) > 0 AND moved->0 ? 'sentence';
"""
TABLES = ("visits_visit", "visits_amendment")


def kept() -> str:
    """The statements, with the triggers off that let nobody change a record: what it says stays."""
    lines = [f"ALTER TABLE {table} DISABLE TRIGGER USER;" for table in TABLES]
    lines += [KEPT.format(table=table) for table in TABLES]
    return "\n".join([*lines, *(f"ALTER TABLE {table} ENABLE TRIGGER USER;" for table in TABLES)])


class Migration(migrations.Migration):
    dependencies = [("visits", "0017_plain_words")]
    operations = [migrations.RunSQL(kept(), migrations.RunSQL.noop)]
