"""Django settings. What differs between machines comes from the environment; the start scripts set it."""

import os
import sys
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[3]
VAR = Path(os.environ.get("AGILE_STRIKE_VAR", PROJECT / "var"))

TESTING = "pytest" in sys.modules
DEBUG = False
SECRET_KEY = os.environ.get("AGILE_STRIKE_SECRET", "only-for-tests-and-schema-export")
ALLOWED_HOSTS = os.environ.get("AGILE_STRIKE_HOSTS", "127.0.0.1,localhost,testserver").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "axes",
    "procrastinate.contrib.django",
    "agile_strike.gym",
    "agile_strike.people",
    "agile_strike.kit",
    "agile_strike.playbook",
    "agile_strike.capture",
    "agile_strike.review",
    "agile_strike.trials",
    "agile_strike.intake",
    "agile_strike.demo",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "agile_strike.config.web.ContentSecurityPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25  # hours
AXES_ENABLED = not TESTING
ROOT_URLCONF = "agile_strike.config.urls"
ASGI_APPLICATION = "agile_strike.config.asgi.application"

# a gym's strikes fit into memory: looking rows up by an index costs hardly more than reading on
INDEXES_ARE_CHEAP = "-c random_page_cost=1.1"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "HOST": os.environ.get("AGILE_STRIKE_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("AGILE_STRIKE_DB_PORT", "5432"),
        "NAME": os.environ.get("AGILE_STRIKE_DB_NAME", "agile_strike"),
        "USER": os.environ.get("AGILE_STRIKE_DB_USER", "app"),
        "PASSWORD": os.environ.get("AGILE_STRIKE_DB_PASSWORD", ""),
        "OPTIONS": {"options": INDEXES_ARE_CHEAP} | ({} if TESTING else {"pool": {"min_size": 1, "max_size": 8}}),
    }
}
if TESTING:  # a slow hash is for those who steal a database, not for tests
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

TIME_ZONE = "UTC"
USE_TZ = True
LANGUAGE_CODE = "en-gb"

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
UPLOADS = VAR / "uploads"
LARGEST_UPLOAD_BYTES = 1_500_000_000

STATIC_URL = "/static/"
WEB_BUILD = PROJECT / "web" / "dist"
WHITENOISE_ROOT = str(WEB_BUILD)
WHITENOISE_INDEX_FILE = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
