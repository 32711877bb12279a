"""The HTTP interface: one router a noun, session sign-in, one body for errors."""

from ninja import NinjaAPI, Schema
from ninja.openapi.schema import OpenAPISchema
from pydantic import Field

from aquifer import errors
from aquifer.accounts.access import SignedIn
from aquifer.accounts.api import router as accounts
from aquifer.attachments.api import router as attachments
from aquifer.changes.api import router as changes
from aquifer.company.api import router as company
from aquifer.forecasts.api import router as forecasts
from aquifer.full_export.api import router as full_export
from aquifer.imports.api import router as imports
from aquifer.money.api import router as money
from aquifer.office.account_api import router as account
from aquifer.office.company_api import router as company_settings
from aquifer.office.crew_api import router as crew
from aquifer.office.jobs_api import router as jobs
from aquifer.office.people_api import router as people
from aquifer.outbox.api import router as outbox
from aquifer.programs.api import router as programs
from aquifer.projections.api import router as projections
from aquifer.projections.demand_api import router as demand
from aquifer.quarterly.api import router as quarterly
from aquifer.register.heaters_api import router as heaters
from aquifer.register.open_ends_api import router as open_ends
from aquifer.register.sites_api import router as places
from aquifer.register.zones_api import router as water
from aquifer.review.api import router as review
from aquifer.rounds.api import router as rounds
from aquifer.stock.api import router as stock
from aquifer.visiting.api import router as visits
from aquifer.workbench.api import router as bench


class Trouble(Schema):
    """Whatever cannot be done is told so; see ``errors``."""

    code: str = Field(description="Stable, to decide by.")
    message: str = Field(description="What was found and what to do, for a person.")
    fields: dict[str, str] = Field(description="What is wrong, by the field that was sent.")


class DescribedAPI(NinjaAPI):
    """An API whose description also says how it refuses, where it is, and that programs ask by a token."""

    def get_openapi_schema(
        self, *, path_prefix: str | None = None, path_params: dict[str, object] | None = None
    ) -> OpenAPISchema:
        """The description, with what the routes have in common."""
        schema = super().get_openapi_schema(path_prefix=path_prefix, path_params=path_params)
        components = schema["components"]
        components["schemas"]["Trouble"] = Trouble.model_json_schema()
        components["securitySchemes"]["Token"] = {"type": "http", "scheme": "bearer"}
        body = {"application/json": {"schema": {"$ref": "#/components/schemas/Trouble"}}}
        for path in schema["paths"].values():
            for operation in path.values():
                operation["responses"]["4XX"] = {"description": "It cannot be done, and why", "content": body}
                operation["security"] = [*operation.get("security", []), {"Token": []}]
        schema["servers"] = [{"url": "/", "description": "This installation"}]
        return schema


api = DescribedAPI(
    title="Aquifer",
    version="1",
    auth=SignedIn(),
    docs_url=None,
    description="What the application's own pages ask. Units are in the names: capacity_l, pressure_kpa, depth_mm.",
)
errors.register(api)
for prefix, router in (
    ("", accounts),
    ("", company),
    ("", company_settings),
    ("", people),
    ("", account),
    ("", jobs),
    ("", crew),
    ("", programs),
    ("", water),
    ("", heaters),
    ("", places),
    ("", changes),
    ("", open_ends),
    ("", forecasts),
    ("", visits),
    ("/rounds", rounds),
    ("/outbox", outbox),
    ("", review),
    ("", projections),
    ("", demand),
    ("", quarterly),
    ("", stock),
    ("", money),
    ("", imports),
    ("", attachments),
    ("", full_export),
    ("", bench),
):
    api.add_router(prefix, router)
