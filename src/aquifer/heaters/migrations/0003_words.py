"""What a heater is found by, kept by the database: whoever changes a name, by whatever way, it is found by the new one."""

from django.db import migrations

UP = """
CREATE FUNCTION heater_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  SELECT lower(concat_ws(' ', s.name, s.street, s.town, NEW.location, NEW.tag, NEW.serial,
                         replace(NEW.kind, '_', ' '), NEW.maker, NEW.model, NEW.bank, s.code,
                         c.name, c.phone, c.email, z.name))
    INTO NEW.words
    FROM customers_site s
    JOIN customers_customer c ON c.id = s.customer_id
    JOIN water_zone z ON z.id = s.zone_id
   WHERE s.id = NEW.site_id;
  NEW.words := coalesce(NEW.words, lower(NEW.tag));
  RETURN NEW;
END $$;
CREATE TRIGGER heater_words BEFORE INSERT OR UPDATE OF
  tag, serial, kind, location, maker, model, bank, site_id, words ON heaters_heater
  FOR EACH ROW EXECUTE FUNCTION heater_words();

CREATE FUNCTION site_moves_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE heaters_heater SET words = '' WHERE site_id = NEW.id;
  RETURN NULL;
END $$;
CREATE TRIGGER site_moves_words AFTER UPDATE OF name, street, town, code, zone_id, customer_id ON customers_site
  FOR EACH ROW WHEN ((OLD.name, OLD.street, OLD.town, OLD.code, OLD.zone_id, OLD.customer_id)
    IS DISTINCT FROM (NEW.name, NEW.street, NEW.town, NEW.code, NEW.zone_id, NEW.customer_id))
  EXECUTE FUNCTION site_moves_words();

CREATE FUNCTION customer_moves_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE heaters_heater SET words = '' WHERE site_id IN (SELECT id FROM customers_site WHERE customer_id = NEW.id);
  RETURN NULL;
END $$;
CREATE TRIGGER customer_moves_words AFTER UPDATE OF name, phone, email ON customers_customer
  FOR EACH ROW WHEN ((OLD.name, OLD.phone, OLD.email) IS DISTINCT FROM (NEW.name, NEW.phone, NEW.email))
  EXECUTE FUNCTION customer_moves_words();

CREATE FUNCTION zone_moves_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE heaters_heater SET words = '' WHERE site_id IN (SELECT id FROM customers_site WHERE zone_id = NEW.id);
  RETURN NULL;
END $$;
CREATE TRIGGER zone_moves_words AFTER UPDATE OF name ON water_zone
  FOR EACH ROW WHEN (OLD.name IS DISTINCT FROM NEW.name) EXECUTE FUNCTION zone_moves_words();

UPDATE heaters_heater SET words = '';
"""
DOWN = """
DROP TRIGGER zone_moves_words ON water_zone;
DROP TRIGGER customer_moves_words ON customers_customer;
DROP TRIGGER site_moves_words ON customers_site;
DROP TRIGGER heater_words ON heaters_heater;
DROP FUNCTION zone_moves_words();
DROP FUNCTION customer_moves_words();
DROP FUNCTION site_moves_words();
DROP FUNCTION heater_words();
"""


class Migration(migrations.Migration):
    dependencies = [
        ("heaters", "0002_depth_and_history"),
        ("customers", "0003_place_and_history"),
        ("water", "0002_outline_and_history"),
    ]
    operations = [migrations.RunSQL(UP, DOWN)]
