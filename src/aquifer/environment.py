"""What differs between installations, as the environment says it: every variable with its type and its bounds.

docs/operations.md says what each is for.
"""

import ipaddress
import os
import zoneinfo
from functools import lru_cache
from pathlib import Path
from typing import Annotated, TypeVar

from pydantic import AfterValidator, BeforeValidator, Field, StringConstraints, ValidationError
from pydantic_settings import BaseSettings, NoDecode, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]
PREFIX = "AQUIFER_"


def _parts(told: object) -> object:
    return told.replace(",", " ").split() if isinstance(told, str) else told


def _network(told: str) -> str:
    ipaddress.ip_network(told, strict=False)
    return told


def _zone(told: str) -> str:
    if told not in zoneinfo.available_timezones():
        raise ValueError("no time zone is called so; one is Europe/Berlin")
    return told


Told = TypeVar("Told")
Several = Annotated[list[Told], NoDecode, BeforeValidator(_parts)]
"""With blanks or commas between."""
Address = Annotated[str, StringConstraints(pattern=r"^(https?://[^\s/]+\S*)?$")]
Class = Annotated[str, StringConstraints(pattern=r"^([A-Za-z_]\w*(\.[A-Za-z_]\w*)+)?$")]
Port = Annotated[int, Field(ge=1, le=65535)]
Network = Annotated[str, AfterValidator(_network)]
Mailbox = Annotated[str, StringConstraints(pattern=r"^[^@\s]+@[^@\s]+$")]


class Environment(BaseSettings):
    # A variable that is set to nothing is one that is not set.
    model_config = SettingsConfigDict(env_prefix=PREFIX, env_ignore_empty=True)

    data: Path = ROOT / "var"
    secret_key: str = ""
    first_password: str = ""
    demo: bool = False

    hosts: Several[str] = ["127.0.0.1", "localhost"]
    origins: Several[Address] = []
    https: bool = False
    proxies: Several[Network] = []
    public_address: Address = "http://127.0.0.1:8000"
    bind: Annotated[str, StringConstraints(pattern=r"^(\S+:\d{1,5}|unix:\S+)$")] = "127.0.0.1:8000"
    servers: Annotated[int, Field(ge=1, le=64)] = 2
    share_port: bool = False
    threads: Annotated[int, Field(ge=1, le=256)] = 8
    time_zone: Annotated[str, AfterValidator(_zone)] = "UTC"

    db_name: str = "aquifer"
    db_user: str = "aquifer"
    db_password: str = ""
    db_host: str = "127.0.0.1"
    db_port: Port = 54329
    db_pooled: bool = False
    db_standby_host: str = ""
    db_standby_port: Port = 5432
    statement_s: Annotated[int, Field(ge=0, le=3600)] = 0

    backups: str = ""
    recovery: str = ""
    files_bucket: str = ""
    files_address: Address = ""
    files_region: str = "us-east-1"
    files_key: str = ""
    files_secret: str = ""
    metrics_token: str = ""
    traces_to: Address = ""
    errors_to: Several[Mailbox] = []

    smtp_host: str = ""
    smtp_port: Port = 587
    smtp_user: str = ""
    smtp_password: str = ""
    smtp_tls: bool = True
    mail_from: str = ""
    text_gateway: Address = ""
    text_token: str = ""
    message_gateway: Class = ""
    water_supplier: Class = ""
    router: Address = ""
    geocoder: Address = ""


def read() -> Environment:
    """The environment as it is now. Raises: SystemExit that names each variable that is wrong, and why."""
    return _read(tuple((name, value) for name, value in os.environ.items() if name.upper().startswith(PREFIX)))


@lru_cache(maxsize=4)
def _read(as_set: tuple[tuple[str, str], ...]) -> Environment:
    """Read once for what is set: to look through all time zones takes as long as a page."""
    try:
        return Environment()
    except ValidationError as error:
        wrong = {PREFIX + str(one["loc"][0]).upper(): (one["input"], one["msg"]) for one in error.errors()}
        lines = [f"{name} is {str(told)[:80]!r}: {why}." for name, (told, why) in wrong.items()]
        raise SystemExit("\n".join(["The environment is not as it has to be (docs/operations.md):", *lines])) from None
