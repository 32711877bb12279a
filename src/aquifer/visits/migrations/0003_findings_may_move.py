"""Two records of one heater are merged: its findings then belong to the kept one. What was found stays as it is."""

from django.db import migrations

ONLY_MOVE = """
DROP TRIGGER findings_append_only ON visits_finding;
CREATE TRIGGER findings_append_only BEFORE UPDATE ON visits_finding
    FOR EACH ROW WHEN (to_jsonb(OLD) - 'heater_id' - 'part_id' IS DISTINCT FROM to_jsonb(NEW) - 'heater_id' - 'part_id')
    EXECUTE FUNCTION refuse_change_of_finding();
CREATE TRIGGER findings_never_deleted BEFORE DELETE ON visits_finding
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_finding();
"""
NOTHING = """
DROP TRIGGER findings_never_deleted ON visits_finding;
DROP TRIGGER findings_append_only ON visits_finding;
CREATE TRIGGER findings_append_only BEFORE UPDATE OR DELETE ON visits_finding
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_finding();
"""


class Migration(migrations.Migration):
    dependencies = [("visits", "0002_findings_append_only")]
    operations = [migrations.RunSQL(ONLY_MOVE, NOTHING)]
