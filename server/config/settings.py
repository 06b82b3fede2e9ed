"""Django's settings. Everything that differs between machines comes from the environment or the data folder."""

import os
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.core.exceptions import ImproperlyConfigured

from server.runtime import postgres
from server.runtime.logs import logging_settings
from server.runtime.paths import CHECKOUT, data_folder, secret

DATA = data_folder()
SECRET_KEY = secret("django")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("LANTERN_HOSTS", "localhost,127.0.0.1,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "procrastinate.contrib.django",
    "channels",
    "allauth.account",
    "axes",
    "csp",
    "django_prometheus",
    "server.accounts",
    "server.administration",
    "server.projects",
    "server.library",
    "server.workers",
    "server.prints",
    "server.takes",
    "server.showings",
    "server.intake",
    "server.idempotency",
]
MIDDLEWARE = [
    "django_prometheus.middleware.PrometheusBeforeMiddleware",
    "server.observing.requests.RequestLog",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "servestatic.middleware.ServeStaticMiddleware",
    "server.accounts.keeping.KeptSessions",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "server.idempotency.middleware.IdempotencyKeys",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_prometheus.middleware.PrometheusAfterMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}", "OPTIONS": options}
    for name, options in (
        ("UserAttributeSimilarityValidator", {}),
        ("MinimumLengthValidator", {"min_length": 10}),
        ("CommonPasswordValidator", {}),
        ("NumericPasswordValidator", {}),
    )
]
DEMO_ACCOUNT = "demo"
ACCOUNT_ADAPTER = "server.accounts.invitations.InvitedAdapter"
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*"]
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_EMAIL_VERIFICATION = "none"
ACCOUNT_USERNAME_BLACKLIST = [DEMO_ACCOUNT]
AXES_FAILURE_LIMIT = 8
"""Wrong passwords in a row for a name from one address, after which it has to wait."""
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
SILENCED_SYSTEM_CHECKS = ["axes.W002"]  # its middleware would answer in the place of the API
ROOT_URLCONF = "server.config.urls"
ASGI_APPLICATION = "server.config.asgi.application"

_database = postgres.address()
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": _database.name,
        "USER": _database.user,
        "PASSWORD": _database.password,
        "HOST": _database.host,
        "PORT": _database.port,
        "CONN_MAX_AGE": int(os.environ.get("LANTERN_DATABASE_KEEPS", 0)),  # s
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {"server_side_binding": True},  # a large document is not quoted into the statement
    }
}
MOST_HOSTS = int(os.environ.get("LANTERN_MOST_HOSTS", max(4, 2 * (os.cpu_count() or 1))))
"""Projects that are rendered at the same time; others wait for a place."""
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "tasks"

WEB_BUILD = CHECKOUT / "web" / "dist"
SERVESTATIC_ROOT = WEB_BUILD
SERVESTATIC_INDEX_FILE = True
SERVESTATIC_USE_STATIC_ROOT = False
STATIC_URL = "/static/"

BUCKET = os.environ.get("LANTERN_S3_BUCKET")
"""Where files lie, if not in the data folder; who may read it is said by the variables that all S3 clients know."""


def _storage(place: str) -> dict[str, Any]:
    if BUCKET is None:
        folder = Path(os.environ.get("LANTERN_STORAGE") or DATA)
        return {"BACKEND": "server.runtime.file_storage.DurableStorage", "OPTIONS": {"location": folder / place}}
    endpoint = os.environ.get("LANTERN_S3_ENDPOINT")
    options = {"bucket_name": BUCKET, "location": place, "endpoint_url": endpoint, "file_overwrite": True}
    return {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": options}


STORAGES = {
    "default": _storage("files"),
    "prints": _storage("prints"),
    "uploads": _storage("uploads"),
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
METRICS_TOKEN = secret("metrics")
"""Who has it may read what the server counts."""
FETCHED_FOLDER = DATA / "fetched"
"""Copies of files that lie in a bucket."""
READING_FOLDER = DATA / "reading"
"""What is unpacked while it is read."""
FILMS_FOLDER = DATA / "prints"
"""Films of prints that are being made on this machine."""
ASSET_SIZE_LIMIT = int(os.environ.get("LANTERN_ASSET_LIMIT", 512 << 20))  # bytes
PROFILE_SIZE_LIMIT = 4 << 20  # bytes: a measurement at every degree of the whole sphere is half of that
IMAGE_SIZE_LIMIT = int(os.environ.get("LANTERN_IMAGE_LIMIT", 128 << 20))  # bytes
MATERIAL_SIZE_LIMIT = int(os.environ.get("LANTERN_MATERIAL_LIMIT", 256 << 20))  # bytes, also when unpacked
PICTURE_SIZE_LIMIT = 2 << 30  # bytes: a printed picture that is opened back
LOOK_SIZE_LIMIT = 64 << 20  # bytes: tables of 65³ entries are a tenth of that
ENVIRONMENT_SIZE_LIMIT = int(os.environ.get("LANTERN_ENVIRONMENT_LIMIT", 256 << 20))  # bytes
PACKAGE_SIZE_LIMIT = ASSET_SIZE_LIMIT + 2 * ENVIRONMENT_SIZE_LIMIT  # bytes of a zip
READING_TIME_LIMIT = 300  # s, of one upload
BAKING_TIME_LIMIT = 1200  # s, of a model with images made of its patterns
FILM_LIMIT = int(
    os.environ.get("LANTERN_FILM_LIMIT", os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE") // 2)
)  # bytes of memory that the film of a print may take
WEBHOOK = os.environ.get("LANTERN_WEBHOOK", "")
"""Address that is told when a print has ended; empty: nobody is."""
if WEBHOOK and not WEBHOOK.startswith(("http://", "https://")):
    raise ImproperlyConfigured(
        f"LANTERN_WEBHOOK is to be an address that begins with https:// or http://, not {WEBHOOK}"
    )
THREADS = int(os.environ.get("LANTERN_THREADS") or os.cpu_count() or 1)
"""With which prints are made on this machine."""
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 << 20
NINJA_PAGINATION_PER_PAGE = 100
NINJA_PAGINATION_MAX_LIMIT = 500

SESSION_COOKIE_AGE = int(float(os.environ.get("LANTERN_IDLE_HOURS", 72)) * 3600)
"""Seconds without a request after which somebody has to sign in again."""
SESSION_SAVE_EVERY_REQUEST = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
CSRF_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
BEHIND_TLS = os.environ.get("LANTERN_TLS") == "1"
"""Whether a proxy in front of this server speaks HTTPS to the browsers."""
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = BEHIND_TLS
SECURE_HSTS_SECONDS = 31_536_000 if BEHIND_TLS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if BEHIND_TLS else None
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS] if BEHIND_TLS else []
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        # The component library writes its styles into the page.
        "style-src": ["'self'", "'unsafe-inline'"],
        "font-src": ["'self'", "data:"],
        "img-src": ["'self'", "data:", "blob:"],
        "connect-src": ["'self'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
        "base-uri": ["'none'"],
    }
}
USE_TZ = True
TIME_ZONE = "UTC"

LOGGING = logging_settings(DATA / "logs")
