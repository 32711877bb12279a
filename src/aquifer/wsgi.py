import os

from django.core.wsgi import get_wsgi_application
from django.urls import get_resolver

from aquifer.core.procedures.calculators import calculators
from aquifer.core.procedures.ladder import complaints
from aquifer.core.procedures.library import library

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "aquifer.settings")
application = get_wsgi_application()


def at_hand() -> None:
    """What every process would otherwise build while its first visitor waits: the routes, with all that they import,
    and the procedures. Before it listens, and before others are made of it; nothing here asks the database."""
    get_resolver().reverse_dict  # noqa: B018  # read for what it builds
    library()
    complaints()
    calculators()


at_hand()
