"""What an amendment moved is kept with it; set once, as it is with a visit."""

from django.db import migrations, models

ONCE = """
DROP TRIGGER amendments_append_only ON visits_amendment;
CREATE TRIGGER amendments_stay BEFORE UPDATE ON visits_amendment
    FOR EACH ROW WHEN (
        to_jsonb(OLD) - 'moved' IS DISTINCT FROM to_jsonb(NEW) - 'moved'
        OR (OLD.moved <> '[]'::jsonb AND OLD.moved IS DISTINCT FROM NEW.moved)
    ) EXECUTE FUNCTION refuse_change_of_record();
CREATE TRIGGER amendments_never_deleted BEFORE DELETE ON visits_amendment
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_record();
"""
NEVER = """
DROP TRIGGER amendments_never_deleted ON visits_amendment;
DROP TRIGGER amendments_stay ON visits_amendment;
CREATE TRIGGER amendments_append_only BEFORE UPDATE OR DELETE ON visits_amendment
    FOR EACH ROW EXECUTE FUNCTION refuse_change_of_record();
"""


class Migration(migrations.Migration):
    dependencies = [("visits", "0014_texture")]
    operations = [
        migrations.AddField(
            model_name="amendment",
            name="moved",
            field=models.JSONField(default=list, help_text="What it moved in the forecast, as it was told."),
        ),
        migrations.RunSQL(ONCE, NEVER),
    ]
