"""What a server process has at hand before it is made."""

import subprocess
import sys

TOLD = """
import aquifer.wsgi
from django.db import connection
from django.urls import get_resolver
from aquifer.core.procedures import calculators, ladder, library
built = [one.cache_info().currsize for one in (library.library, ladder.complaints, calculators.calculators)]
print(get_resolver()._populated, built, connection.connection is None)
"""


def test_routes_and_procedures_are_built_before_a_process_is_made_and_the_database_is_not_asked():
    run = subprocess.run([sys.executable, "-c", TOLD], capture_output=True, text=True, check=False)
    assert run.stdout.split("\n")[-2] == "True [1, 1, 1] True", run.stdout + run.stderr[-800:]
