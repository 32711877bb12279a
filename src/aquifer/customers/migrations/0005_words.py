"""What a site is found by, and every word of it for typing errors; kept by the database, as a heater's are."""

import django.contrib.postgres.indexes
from django.contrib.postgres.operations import CreateExtension
from django.db import migrations, models

UP = """
CREATE FUNCTION site_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  SELECT lower(concat_ws(' ', NEW.name, NEW.street, NEW.town, NEW.code, c.name, c.phone, c.email))
    INTO NEW.words
    FROM customers_customer c
   WHERE c.id = NEW.customer_id;
  NEW.words := coalesce(NEW.words, lower(NEW.name));
  RETURN NEW;
END $$;
CREATE TRIGGER site_words BEFORE INSERT OR UPDATE OF name, street, town, code, customer_id, words
  ON customers_site FOR EACH ROW EXECUTE FUNCTION site_words();

CREATE FUNCTION each_word() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO customers_word (text)
    SELECT DISTINCT w FROM regexp_split_to_table(NEW.words, '[^[:alpha:]]+') w WHERE length(w) BETWEEN 3 AND 40
    ON CONFLICT DO NOTHING;
  RETURN NULL;
END $$;
CREATE TRIGGER each_word AFTER INSERT OR UPDATE OF name, street, town, code, customer_id, words ON customers_site
  FOR EACH ROW EXECUTE FUNCTION each_word();

CREATE FUNCTION each_word_of_a_zone() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO customers_word (text)
    SELECT DISTINCT w FROM regexp_split_to_table(lower(NEW.name), '[^[:alpha:]]+') w WHERE length(w) BETWEEN 3 AND 40
    ON CONFLICT DO NOTHING;
  RETURN NULL;
END $$;
CREATE TRIGGER each_word_of_a_zone AFTER INSERT OR UPDATE OF name ON water_zone
  FOR EACH ROW EXECUTE FUNCTION each_word_of_a_zone();

CREATE OR REPLACE FUNCTION customer_moves_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE customers_site SET words = '' WHERE customer_id = NEW.id;
  UPDATE heaters_heater SET words = '' WHERE site_id IN (SELECT id FROM customers_site WHERE customer_id = NEW.id);
  RETURN NULL;
END $$;

INSERT INTO customers_word (text) VALUES
  ('gas'), ('tank'), ('electric'), ('heat'), ('pump'), ('indirect'), ('mobile'), ('tankless'), ('condensing'), ('small');
UPDATE customers_site SET words = '';
UPDATE water_zone SET name = name;
"""
DOWN = """
DROP TRIGGER each_word_of_a_zone ON water_zone;
DROP FUNCTION each_word_of_a_zone();
DROP TRIGGER each_word ON customers_site;
DROP TRIGGER site_words ON customers_site;
DROP FUNCTION each_word();
DROP FUNCTION site_words();
CREATE OR REPLACE FUNCTION customer_moves_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE heaters_heater SET words = '' WHERE site_id IN (SELECT id FROM customers_site WHERE customer_id = NEW.id);
  RETURN NULL;
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [
        ("customers", "0004_found_by_words"),
        ("heaters", "0003_words"),
        ("water", "0002_outline_and_history"),
    ]
    operations = [
        CreateExtension("fuzzystrmatch"),
        migrations.RemoveIndex("customer", "customer_by_name"),
        migrations.RemoveIndex("customer", "customer_by_phone"),
        migrations.RemoveIndex("site", "site_by_name"),
        migrations.RemoveIndex("site", "site_by_street"),
        migrations.CreateModel(
            "Word", [("text", models.CharField(max_length=40, primary_key=True, serialize=False))]
        ),
        migrations.AddField(
            "site",
            "words",
            models.TextField(default="", editable=False, help_text="What it is found by; kept by the database."),
        ),
        migrations.AddIndex(
            "site",
            django.contrib.postgres.indexes.GinIndex(
                fields=["words"], name="site_words_trigram", opclasses=["gin_trgm_ops"]
            ),
        ),
        migrations.RunSQL(UP, DOWN),
    ]
