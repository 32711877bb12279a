"""Settings of an installation. Everything that differs between installations comes from the environment.

One company an installation. ``./run`` sets the variables for this machine; docs/operations.md lists them.
"""

import logging
from datetime import timedelta

from csp.constants import NONCE, NONE, SELF

from aquifer import environment
from aquifer.logs import configured

ENVIRONMENT = environment.read()
ROOT, DATA = environment.ROOT, ENVIRONMENT.data
WEB = ROOT / "web" / "dist"


def _secret() -> str:
    """The signing key: from the environment, or made once and kept beside the data."""
    if ENVIRONMENT.secret_key:
        return ENVIRONMENT.secret_key
    kept = DATA / "secret-key"
    if not kept.exists():
        from django.core.management.utils import get_random_secret_key

        kept.parent.mkdir(parents=True, exist_ok=True)
        kept.touch(mode=0o600)
        kept.write_text(get_random_secret_key())
    return kept.read_text()


SECRET_KEY = _secret()
DEBUG = False
ALLOWED_HOSTS = ENVIRONMENT.hosts
CSRF_TRUSTED_ORIGINS = ENVIRONMENT.origins
DEMO = ENVIRONMENT.demo

INSTALLED_APPS = [
    "aquifer.accounts.admin_site.LeadAdminConfig",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "simple_history",
    "procrastinate.contrib.django",
    "aquifer.accounts",
    "aquifer.company",
    "aquifer.customers",
    "aquifer.water",
    "aquifer.heaters",
    "aquifer.visits",
    "aquifer.places",
    "aquifer.open_ends",
    "aquifer.attachments",
    "aquifer.forecasts",
    "aquifer.rounds",
    "aquifer.outbox",
    "aquifer.stock",
    "aquifer.money",
    "aquifer.office",
    "aquifer.programs",
    "aquifer.workbench",
    "aquifer.imports",
    "aquifer.review",
    "aquifer.projections",
    "aquifer.full_export",
    "aquifer.commands",
    "aquifer.demo",
]
MIDDLEWARE = [
    "aquifer.accounts.door.real_address",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "aquifer.logs.Requests",
    "aquifer.errors.one_body",
    "aquifer.company.clock.in_its_zone",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "aquifer.accounts.sessions.aged",
    "aquifer.accounts.door.bounded",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "aquifer.pages.private",
    "aquifer.history.marks.one_change",
    "aquifer.changed.tells_what_is_stale",
    "aquifer.standby.tells_how_far",
    "simple_history.middleware.HistoryRequestMiddleware",
    "axes.middleware.AxesMiddleware",
]
# By which a watch reads figures of requests and jobs; none are kept without it.
METRICS_TOKEN = ENVIRONMENT.metrics_token
if METRICS_TOKEN:
    MIDDLEWARE = [
        "django_prometheus.middleware.PrometheusBeforeMiddleware",
        *MIDDLEWARE,
        "django_prometheus.middleware.PrometheusAfterMiddleware",
    ]
ROOT_URLCONF = "aquifer.urls"
WSGI_APPLICATION = "aquifer.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "src" / "aquifer" / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]
# Set where pages and programs are served, and not for jobs, which may compute for long.
_STATEMENT_S = ENVIRONMENT.statement_s
_TIMES = (
    f"-c statement_timeout={_STATEMENT_S}s -c lock_timeout=10s -c idle_in_transaction_session_timeout=60s"
    if _STATEMENT_S
    else ""
)
# Behind a pooler that hands out a connection for a transaction: nothing is left on it for the next, so nothing is
# prepared, and what a connection begins with is the role's own.
_POOLED = ENVIRONMENT.db_pooled
# How soon a server that is cut off is noticed, by who waits for its answer and by who sends; the system's own way takes
# a quarter of an hour.
_CUT = {
    "keepalives_idle": 4, "keepalives_interval": 2, "keepalives_count": 3, "tcp_user_timeout": 10_000,
    "connect_timeout": 5,
}  # fmt: skip


def _database(host: str, port: int) -> dict[str, object]:
    return {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": ENVIRONMENT.db_name,
        "USER": ENVIRONMENT.db_user,
        "PASSWORD": ENVIRONMENT.db_password,
        "HOST": host,
        "PORT": str(port),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        # Only aquifer/prepared.py prepares, for few rows: what is prepared is planned once. None, Django's default,
        # would forbid it.
        "DISABLE_SERVER_SIDE_CURSORS": _POOLED,
        "OPTIONS": {
            "prepare_threshold": None if _POOLED else 5,
            "application_name": "aquifer",
            **_CUT,
            **({} if _POOLED else {"options": f"-c plan_cache_mode=force_generic_plan {_TIMES}"}),
        },
    }


DATABASES = {"default": _database(ENVIRONMENT.db_host, ENVIRONMENT.db_port)}
# Reads of whole tables may go to a copy that follows.
if ENVIRONMENT.db_standby_host:
    DATABASES["standby"] = _database(ENVIRONMENT.db_standby_host, ENVIRONMENT.db_standby_port)
DATABASE_ROUTERS = ["aquifer.standby.Router"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
PASSWORD_HASHERS = [
    "django.contrib.auth.hashers.Argon2PasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
PASSWORD_RESET_TIMEOUT = int(timedelta(days=1).total_seconds())
LOGIN_URL = "/sign-in"
LOGIN_REDIRECT_URL = "/"
LOGOUT_REDIRECT_URL = "/sign-in"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_ENGINE = "aquifer.accounts.sessions"
# The longest; one that is not used ends before, see accounts/sessions.py.
SESSION_COOKIE_AGE = int(timedelta(days=60).total_seconds())
OTP_TOTP_ISSUER = "Aquifer"
SECURE = ENVIRONMENT.https
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE
SECURE_HSTS_SECONDS = 31_536_000 if SECURE else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if SECURE else None

# Whose word on where a request comes from is believed: the addresses or networks of the proxies before this server.
PROXIES = ENVIRONMENT.proxies
AXES_IPWARE_META_PRECEDENCE_ORDER = ["REMOTE_ADDR"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_CALLABLE = "aquifer.pages.locked_out"
AXES_VERBOSE = False

# Nothing is loaded from anywhere else, and no style or script that is not this page's own.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        # blob: a photograph that a device took and has not sent yet.
        "img-src": [SELF, "data:", "blob:"],
        "style-src": [SELF, NONCE],
        "font-src": [SELF, "data:"],
        "object-src": [NONE],
        "frame-ancestors": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
    }
}

LANGUAGE_CODE = "en"
TIME_ZONE = ENVIRONMENT.time_zone
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = DATA / "static"
STATICFILES_DIRS = [WEB] if WEB.exists() else []
WHITENOISE_MAX_AGE = 31_536_000
# Photographs and documents: a folder of this machine, or an object storage that every machine reaches.
_OBJECTS = {
    "BACKEND": "storages.backends.s3.S3Storage",
    "OPTIONS": {
        "bucket_name": ENVIRONMENT.files_bucket, "endpoint_url": ENVIRONMENT.files_address or None,
        "region_name": ENVIRONMENT.files_region, "access_key": ENVIRONMENT.files_key,
        "secret_key": ENVIRONMENT.files_secret, "addressing_style": "path", "default_acl": None,
    },
}  # fmt: skip
_FOLDER = {"BACKEND": "django.core.files.storage.FileSystemStorage"}
STORAGES = {
    "default": _OBJECTS if ENVIRONMENT.files_bucket else _FOLDER,
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
MEDIA_ROOT = DATA / "media"
# Where the nightly backup is written; none is without it.
BACKUPS = ENVIRONMENT.backups
# Where copies of the server and its log lie, for a way back to a moment.
RECOVERY = ENVIRONMENT.recovery
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
FILE_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024

# Who is written to when the program fails, besides its log.
ADMINS = [(one, one) for one in ENVIRONMENT.errors_to]
LOGGING = configured(to_mail=bool(ADMINS))
DJANGO_STRUCTLOG_STATUS_START_LOG_LEVEL = logging.DEBUG
SILENCED_SYSTEM_CHECKS = ["axes.W006"]

# The demo writes to nobody by a simulated gateway; an own base sends by SMTP once a server is named, else not at all.
EMAIL_HOST = ENVIRONMENT.smtp_host
EMAIL_PORT = ENVIRONMENT.smtp_port
EMAIL_HOST_USER = ENVIRONMENT.smtp_user
EMAIL_HOST_PASSWORD = ENVIRONMENT.smtp_password
EMAIL_USE_TLS = ENVIRONMENT.smtp_tls
EMAIL_TIMEOUT = 20
MAIL_FROM = ENVIRONMENT.mail_from or EMAIL_HOST_USER
if MAIL_FROM:
    # What the program itself writes to whoever looks after it comes from there too.
    SERVER_EMAIL = MAIL_FROM
TEXT_GATEWAY = ENVIRONMENT.text_gateway
TEXT_TOKEN = ENVIRONMENT.text_token
_SIMULATED, _SMTP, _HTTP = (f"aquifer.outbox.gateway.{name}Gateway" for name in ("Simulated", "Smtp", "Http"))
_OWN = _HTTP if TEXT_GATEWAY else _SMTP if EMAIL_HOST else ""
MESSAGE_GATEWAY = ENVIRONMENT.message_gateway or (_SIMULATED if DEMO else _OWN)
PUBLIC_ADDRESS = ENVIRONMENT.public_address
WATER_SUPPLIER = ENVIRONMENT.water_supplier or ("aquifer.demo.supplier.SimulatedSupplier" if DEMO else "")
