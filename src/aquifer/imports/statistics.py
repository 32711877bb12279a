"""PostgreSQL plans by statistics that it gathers in its own time; after a bulk load they are wrong until then."""

from django.db import connection
from django.db.models import Model


def refresh(*models: type[Model]) -> None:
    """Gather the statistics of these tables now. Without it the first forecast after 10,000 heaters joined their
    findings row by row and took minutes."""
    with connection.cursor() as cursor:
        for model in models:
            cursor.execute(f"ANALYZE {connection.ops.quote_name(model._meta.db_table)}")
