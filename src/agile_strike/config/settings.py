"""Django settings. What differs between machines comes from the environment; the start scripts set it."""

import os
import sys
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

PROJECT = Path(__file__).resolve().parents[3]
VAR = Path(os.environ.get("AGILE_STRIKE_VAR", PROJECT / "var"))

BACKUPS = Path(os.environ.get("AGILE_STRIKE_BACKUPS", VAR / "backups"))

TESTING = "pytest" in sys.modules
DEBUG = False
SECRET_KEY = os.environ.get("AGILE_STRIKE_SECRET", "")
if not SECRET_KEY:
    raise ImproperlyConfigured(
        "AGILE_STRIKE_SECRET is not set: give a long random text, the same at every start. ./scripts/demo makes one."
    )
ALLOWED_HOSTS = [h for h in os.environ.get("AGILE_STRIKE_HOSTS", "127.0.0.1,localhost").split(",") if h]
if TESTING:
    ALLOWED_HOSTS.append("testserver")
TLS = os.environ.get("AGILE_STRIKE_TLS") == "1"  # the world reaches this server by https only
PROXIES = int(os.environ.get("AGILE_STRIKE_PROXIES", "0"))  # in front of it, each of which notes who asked it

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
    "agile_strike.evening",
    "agile_strike.capture",
    "agile_strike.review",
    "agile_strike.trials",
    "agile_strike.plans",
    "agile_strike.logbook",
    "agile_strike.reports",
    "agile_strike.intake",
    "agile_strike.live",
    "agile_strike.removal",
    "agile_strike.archive",
    "agile_strike.backup",
    "agile_strike.demo",
]
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "agile_strike.config.web.ContentSecurityPolicy",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25  # hours
AXES_ENABLED = not TESTING
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]  # one who tries locks himself out of one name, and no one else
AXES_IPWARE_PROXY_COUNT = PROXIES or None
AXES_IPWARE_META_PRECEDENCE_ORDER = ["HTTP_X_FORWARDED_FOR", "REMOTE_ADDR"] if PROXIES else ["REMOTE_ADDR"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("UserAttributeSimilarityValidator", "CommonPasswordValidator", "NumericPasswordValidator")
] + [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 9}}]
ROOT_URLCONF = "agile_strike.config.urls"
ASGI_APPLICATION = "agile_strike.config.asgi.application"

# a gym's strikes fit into memory: looking rows up by an index costs hardly more than reading on
INDEXES_ARE_CHEAP = "-c random_page_cost=1.1"
WEB = os.environ.get("AGILE_STRIKE_WEB") == "1"  # a web process
#: a page that has to wait for a connection or a statement longer than this is told that the database is away; what
#: works behind the pages loses nothing by waiting on a machine that is merely busy
DATABASE_WAIT_S = float(os.environ.get("AGILE_STRIKE_DB_WAIT_S", "2")) if WEB else 10.0
STATEMENT = f" -c statement_timeout={round(950 * DATABASE_WAIT_S)}" if WEB else ""
GONE = " -c client_connection_check_interval=500"  # ms: what nobody waits for any more is not worked out to its end
#: a connection whose other end is gone is noticed within twenty seconds
LINE = {
    "connect_timeout": 2 if WEB else 10,
    "keepalives_idle": 5,
    "keepalives_interval": 5,
    "keepalives_count": 3,
    "tcp_user_timeout": 20_000,
}
POOL = {"min_size": 1, "max_size": 8, "timeout": DATABASE_WAIT_S, "reconnect_timeout": max(5.0, DATABASE_WAIT_S)}
DATABASES = {
    "default": {
        "ENGINE": "agile_strike.gym.postgres",
        "HOST": os.environ.get("AGILE_STRIKE_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("AGILE_STRIKE_DB_PORT", "5432"),
        "NAME": os.environ.get("AGILE_STRIKE_DB_NAME", "agile_strike"),
        "USER": os.environ.get("AGILE_STRIKE_DB_USER", "app"),
        "PASSWORD": os.environ.get("AGILE_STRIKE_DB_PASSWORD", ""),
        "OPTIONS": {"options": INDEXES_ARE_CHEAP + GONE + STATEMENT, **LINE} | ({} if TESTING else {"pool": POOL}),
        "CONN_HEALTH_CHECKS": True,  # a connection that a restart of the database has cut is noticed before it is used
    }
}
if TESTING:  # a slow hash is for those who steal a database, not for tests
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

TIME_ZONE = "UTC"
USE_TZ = True
LANGUAGE_CODE = "en-gb"

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = TLS
SECURE_HSTS_SECONDS = 31_536_000 if TLS else 0
SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = TLS
if TLS and PROXIES:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
X_FRAME_OPTIONS = "DENY"
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS] if TLS else []
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
WORK = VAR / "work"  # what workers unpack; each cleans up what dead ones left
LARGEST_UPLOAD_BYTES = 1_500_000_000
MOST_WAITING_BYTES = 6_000_000_000  # of a gym's files that wait to be read
LARGEST_BODY_BYTES = 4_000_000  # of a request that brings no file

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
