"""The kinds of events and the names of readings are the field's words; what was written before is renamed with them."""

from django.db import migrations

KINDS = {"otherwise": "deviation", "despite": "override", "took_back": "undo"}
WHERE = (
    ("visits_visit", "steps"), ("visits_visit", "readings"), ("visits_visitsession", "marks"), ("visits_event", "body"),
    ("visits_amendment", "readings"),
)  # fmt: skip


def renamed(back: bool = False) -> str:
    """The statements, with the triggers off that let nobody change a record: its names change, not what it says."""
    kinds = {new: old for old, new in KINDS.items()} if back else KINDS
    old, new = ("expansion_tank.", "vessel.") if back else ("vessel.", "expansion_tank.")
    tables = dict.fromkeys(table for table, _ in WHERE)
    lines = [f"ALTER TABLE {table} DISABLE TRIGGER USER" for table in tables]
    for was, now in kinds.items():
        lines.append(f"UPDATE visits_event SET kind = '{now}' WHERE kind = '{was}'")
    for table, column in WHERE:
        words = [*((f'"{was}"', f'"{now}"') for was, now in kinds.items()), (f'"{old}', f'"{new}')]
        text = f"{column}::text"
        for was, now in words:
            text = f"replace({text}, '{was}', '{now}')"
        like = " OR ".join(f"{column}::text LIKE '%{was}%'" for was, _ in words)
        lines.append(f"UPDATE {table} SET {column} = ({text})::jsonb WHERE {like}")
    lines += [f"ALTER TABLE {table} ENABLE TRIGGER USER" for table in tables]
    return ";\n".join(lines) + ";"


class Migration(migrations.Migration):
    dependencies = [("visits", "0016_visit_sessions")]
    operations = [migrations.RunSQL(renamed(), renamed(back=True))]
