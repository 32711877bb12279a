"""What visits measured so far is put on the record of the sites where it stands."""

from django.db import migrations

NEWEST = """
UPDATE customers_site AS site
SET static_pressure_kpa = newest.static_kpa, pressure_on = newest."on", pressure_measured = true
FROM (
    SELECT DISTINCT ON (heater.site_id) heater.site_id, finding.static_kpa, finding."on"
    FROM visits_finding AS finding
    JOIN heaters_heater AS heater ON heater.id = finding.heater_id
    WHERE finding.task = 'pressure_test' AND finding.static_kpa IS NOT NULL
      AND NOT EXISTS (SELECT 1 FROM visits_finding AS later WHERE later.corrects_id = finding.id)
    ORDER BY heater.site_id, finding."on" DESC, finding.id DESC
) AS newest
WHERE newest.site_id = site.id
"""


class Migration(migrations.Migration):
    dependencies = [
        ("visits", "0010_depth_after"),
        ("heaters", "0008_end"),
        ("customers", "0007_pressure_measured"),
    ]

    operations = [migrations.RunSQL(NEWEST, migrations.RunSQL.noop)]
