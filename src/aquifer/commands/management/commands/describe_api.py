"""Write the API's description, from which the browser's types are generated."""

import json

from django.conf import settings
from django.core.management.base import BaseCommand

from aquifer.api import api


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: object, **options: object) -> None:
        path = settings.ROOT / "web" / "openapi.json"
        path.write_text(json.dumps(api.get_openapi_schema(), indent=1) + "\n")
        self.stdout.write(f"{path.relative_to(settings.ROOT)} written")
