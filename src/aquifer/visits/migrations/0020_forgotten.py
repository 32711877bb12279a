"""Where a customer is to be forgotten, the words of a record may go; what was done, measured and found never does."""

from django.db import migrations

FORGETS = """
CREATE OR REPLACE FUNCTION refuse_change_of_record() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    words text[] := ARRAY['body', 'note', 'steps', 'signature', 'why'];
BEGIN
    IF TG_OP = 'UPDATE' AND current_setting('aquifer.forgets', true) = 'a customer'
       AND to_jsonb(OLD) - words = to_jsonb(NEW) - words THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'what was recorded at a visit is never changed or deleted; amend it'
        USING ERRCODE = 'integrity_constraint_violation';
END $$;
"""
KEEPS = """
CREATE OR REPLACE FUNCTION refuse_change_of_record() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'what was recorded at a visit is never changed or deleted; amend it'
        USING ERRCODE = 'integrity_constraint_violation';
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [("visits", "0019_taps_apart")]
    operations = [migrations.RunSQL(FORGETS, KEEPS)]
