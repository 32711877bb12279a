"""The database itself keeps the journal and the record: events and amendments stay, and so does a visit once recorded."""

from django.db import migrations

REFUSE = """
CREATE FUNCTION refuse_change_of_record() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'what was recorded at a visit is never changed or deleted; amend it'
        USING ERRCODE = 'integrity_constraint_violation';
END $$;
CREATE TRIGGER events_append_only BEFORE UPDATE OR DELETE ON visits_event
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_record();
CREATE TRIGGER amendments_append_only BEFORE UPDATE OR DELETE ON visits_amendment
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_record();
CREATE TRIGGER visits_stay BEFORE UPDATE ON visits_visit
    FOR EACH ROW WHEN (
        to_jsonb(OLD) - 'heater_id' - 'moved' IS DISTINCT FROM to_jsonb(NEW) - 'heater_id' - 'moved'
        OR (OLD.moved <> '[]'::jsonb AND OLD.moved IS DISTINCT FROM NEW.moved)
    ) EXECUTE FUNCTION refuse_change_of_record();
"""
ALLOW = """
DROP TRIGGER visits_stay ON visits_visit;
DROP TRIGGER amendments_append_only ON visits_amendment;
DROP TRIGGER events_append_only ON visits_event;
DROP FUNCTION refuse_change_of_record();
"""


class Migration(migrations.Migration):
    dependencies = [("visits", "0005_journal")]
    operations = [migrations.RunSQL(REFUSE, ALLOW)]
