"""A telephone number is found by its digits, however it is written; the second one too."""

from django.db import migrations

DIGITS = "regexp_replace(c.phone, '\\D', '', 'g'), regexp_replace(c.second_phone, '\\D', '', 'g')"
PHONES = "c.phone, c.second_phone, " + DIGITS


def functions(phones, watched):
    """Both functions that tell what something is found by, and when a customer's change moves it."""
    differs = ", ".join(f"OLD.{name}" for name in watched), ", ".join(f"NEW.{name}" for name in watched)
    return f"""
CREATE OR REPLACE FUNCTION site_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  SELECT lower(concat_ws(' ', NEW.name, NEW.street, NEW.town, NEW.code, c.name, {phones}, c.email))
    INTO NEW.words
    FROM customers_customer c
   WHERE c.id = NEW.customer_id;
  NEW.words := coalesce(NEW.words, lower(NEW.name));
  RETURN NEW;
END $$;
CREATE OR REPLACE FUNCTION heater_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  SELECT lower(concat_ws(' ', s.name, s.street, s.town, NEW.location, NEW.tag, NEW.serial,
                         replace(NEW.kind, '_', ' '), NEW.maker, NEW.model, NEW.bank, s.code,
                         c.name, {phones}, c.email, z.name))
    INTO NEW.words
    FROM customers_site s
    JOIN customers_customer c ON c.id = s.customer_id
    JOIN water_zone z ON z.id = s.zone_id
   WHERE s.id = NEW.site_id;
  NEW.words := coalesce(NEW.words, lower(NEW.tag));
  RETURN NEW;
END $$;
DROP TRIGGER customer_moves_words ON customers_customer;
CREATE TRIGGER customer_moves_words AFTER UPDATE OF {", ".join(watched)} ON customers_customer
  FOR EACH ROW WHEN (({differs[0]}) IS DISTINCT FROM ({differs[1]}))
  EXECUTE FUNCTION customer_moves_words();
UPDATE customers_site SET words = '';
UPDATE heaters_heater SET words = '';
"""


class Migration(migrations.Migration):
    dependencies = [("heaters", "0010_serial_pattern"), ("customers", "0008_details")]
    operations = [
        migrations.RunSQL(
            functions(PHONES, ["name", "phone", "second_phone", "email"]),
            functions("c.phone", ["name", "phone", "email"]),
        )
    ]
