"""The tables are called after the room that they are in; what an older version has under the former name comes over."""

from django.db import migrations

TAKE_OVER = """
DO $$ BEGIN
    IF to_regclass('whole_base_basefile') IS NOT NULL THEN
        INSERT INTO full_export_basefile (id, state, done, total, bytes, asked_at, asked_by_id)
            SELECT id, state, done, total, bytes, asked_at, asked_by_id FROM whole_base_basefile;
        PERFORM setval(
            pg_get_serial_sequence('full_export_basefile', 'id'), coalesce((SELECT max(id) FROM full_export_basefile), 1)
        );
        DROP TABLE whole_base_basefile;
    END IF;
    IF to_regclass('procrastinate_jobs') IS NOT NULL THEN
        UPDATE procrastinate_jobs SET task_name = 'full_export.write' WHERE task_name = 'whole_base.write';
    END IF;
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [("full_export", "0001_initial")]
    operations = [migrations.RunSQL(TAKE_OVER, migrations.RunSQL.noop)]
