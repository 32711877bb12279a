"""The HTTP interface: one router a noun, session sign-in, one body for errors."""

from ninja import NinjaAPI

from aquifer import errors
from aquifer.accounts.access import SignedIn
from aquifer.accounts.api import router as accounts
from aquifer.company.api import router as company
from aquifer.forecasts.api import router as forecasts
from aquifer.heaters.api import router as heaters
from aquifer.imports.api import router as imports
from aquifer.visits.api import router as visits
from aquifer.water.api import router as water

api = NinjaAPI(title="Aquifer", version="1", auth=SignedIn(), docs_url=None)
errors.register(api)
for prefix, router in (
    ("", accounts),
    ("", company),
    ("", water),
    ("", heaters),
    ("", forecasts),
    ("", visits),
    ("", imports),
):
    api.add_router(prefix, router)
