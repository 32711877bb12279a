"""The database itself refuses to change or delete a finding."""

from django.db import migrations

REFUSE = """
CREATE FUNCTION refuse_change_of_finding() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'a finding is never changed or deleted; record a new one that corrects it'
        USING ERRCODE = 'integrity_constraint_violation';
END $$;
CREATE TRIGGER findings_append_only BEFORE UPDATE OR DELETE ON visits_finding
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_finding();
"""
ALLOW = """
DROP TRIGGER findings_append_only ON visits_finding;
DROP FUNCTION refuse_change_of_finding();
"""


class Migration(migrations.Migration):
    dependencies = [("visits", "0001_initial")]
    operations = [migrations.RunSQL(REFUSE, ALLOW)]
