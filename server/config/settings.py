"""Django's settings. Everything that differs between machines comes from the environment or the data folder."""

import os

from server.runtime import postgres
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
    "server.administration",
    "server.projects",
    "server.library",
    "server.prints",
    "server.intake",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "servestatic.middleware.ServeStaticMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "server.config.urls"
ASGI_APPLICATION = "server.config.asgi.application"

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": postgres.DATABASE,
        "USER": postgres.USER,
        "PASSWORD": secret("database"),
        "HOST": "127.0.0.1",
        "PORT": postgres.port(),
        "CONN_MAX_AGE": int(os.environ.get("LANTERN_DATABASE_KEEPS", 60)),  # s
        "CONN_HEALTH_CHECKS": True,
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

MEDIA_ROOT = DATA / "files"
STORAGES = {
    "default": {"BACKEND": "server.runtime.file_storage.DurableStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
UPLOADS_FOLDER = DATA / "uploads"
PRINTS_FOLDER = DATA / "prints"
ASSET_SIZE_LIMIT = int(os.environ.get("LANTERN_ASSET_LIMIT", 512 << 20))  # bytes
PROFILE_SIZE_LIMIT = 4 << 20  # bytes: a measurement at every degree of the whole sphere is half of that
ENVIRONMENT_SIZE_LIMIT = int(os.environ.get("LANTERN_ENVIRONMENT_LIMIT", 256 << 20))  # bytes
READING_TIME_LIMIT = 300  # s, of one upload
FILM_LIMIT = int(
    os.environ.get("LANTERN_FILM_LIMIT", os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE") // 2)
)  # bytes of memory that the film of a print may take
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 << 20

SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
CSRF_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
USE_TZ = True
TIME_ZONE = "UTC"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "{asctime} {levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"server": {"level": "INFO"}},
}
