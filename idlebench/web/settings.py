"""Django settings. The database and the secret live in IDLEBENCH_HOME, by default ~/.idlebench."""

from __future__ import annotations

import secrets
from pathlib import Path

import environ
from csp.constants import NONE, SELF
from django.contrib import messages

from . import home

env = environ.Env()

HERE = Path(__file__).resolve().parent
HOME = home.place()
HOME.mkdir(parents=True, exist_ok=True, mode=0o700)


def _kept_secret(path: Path) -> str:
    """The secret of this bench, made once and kept beside its database; one that was cut off is made anew."""
    kept = path.read_text().strip() if path.exists() else ""
    if len(kept) < 40:
        kept = secrets.token_urlsafe(48)
        home.written(path, kept.encode())
        path.chmod(0o600)
    return kept


SECRET_KEY = env("IDLEBENCH_SECRET", default="") or _kept_secret(HOME / home.SECRET)
DEBUG = env.bool("IDLEBENCH_DEBUG", default=False)
#: This machine's address in the workshop's network, where it is served there too.
ADDRESS = env("IDLEBENCH_ADDRESS", default="")
ALLOWED_HOSTS = ["127.0.0.1", "localhost", *([ADDRESS] if ADDRESS else [])]

INSTALLED_APPS = [
    "django.contrib.contenttypes",
    "django.contrib.auth",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "csp",
    "django_htmx",
    "simple_history",
    "idlebench.web.records",
    "idlebench.web.ui",
    "idlebench.web.intake",
    "idlebench.web.survey",
    "idlebench.web.calendar",
    "idlebench.web.procedures",
    "idlebench.web.choose",
    "idlebench.web.gather",
    "idlebench.web.swap",
    "idlebench.web.proving",
    "idlebench.web.shelf",
    "idlebench.web.photos",
    "idlebench.web.ledger",
    "idlebench.web.reckon",
    "idlebench.web.practice",
    "idlebench.web.keep",
    "idlebench.web.devices",
]

MIDDLEWARE = [
    "idlebench.web.ui.middleware.HeadMiddleware",
    "idlebench.web.ui.exclusive_mode.QuietMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "idlebench.web.devices.door.DoorMiddleware",
    "idlebench.web.ui.middleware.RefusalMiddleware",
]

ROOT_URLCONF = "idlebench.web.urls"
WSGI_APPLICATION = "idlebench.web.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "OPTIONS": {
            "loaders": [("django.template.loaders.cached.Loader", ["idlebench.web.ui.loader.Loader"])],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.messages.context_processors.messages",
                "idlebench.web.ui.context.shell",
            ],
            "builtins": ["idlebench.web.ui.templatetags.bench"],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": HOME / home.DATABASE,
        # a file in tests too: an in-memory database shared by threads refuses at once instead of waiting its turn
        "TEST": {"NAME": HOME / "test.sqlite3"},
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 10,
            # what was acknowledged is on the disk: every commit waits for it, at some milliseconds a write
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
    }
}
DATABASE_ROUTERS = ["idlebench.web.records.scratch.TrialRouter"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# what the next page says travels in a signed cookie, and in the session where it is too long for one
MESSAGE_STORAGE = "django.contrib.messages.storage.fallback.FallbackStorage"
MESSAGE_TAGS = {messages.SUCCESS: "good", messages.WARNING: "caution"}

LANGUAGE_CODE = "en-gb"
USE_I18N = False
CSRF_FAILURE_VIEW = "idlebench.web.ui.views.stale"
USE_TZ = True
TIME_ZONE = env("TZ", default="UTC") or "UTC"

#: Photos as they were made anew; see web/photos/pictures.py.
PHOTOS = HOME / home.PHOTOS
#: Backups made by themselves, before a change of tables, and before a restore.
BACKUPS = HOME / home.BACKUPS

STATIC_URL = "/static/"
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = DEBUG

DATA_UPLOAD_MAX_MEMORY_SIZE = 12_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 12_000_000
DATA_UPLOAD_MAX_NUMBER_FILES = 30

SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CSRF_COOKIE_SAMESITE = "Strict"
#: A paired device stays paired until it is ended on this machine.
SESSION_COOKIE_SAMESITE = "Strict"
SESSION_COOKIE_AGE = 400 * 24 * 3600
SILENCED_SYSTEM_CHECKS = ["security.W004", "security.W008", "security.W012", "security.W016"]

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "loggers": {
        "django.request": {"handlers": ["console"], "level": "ERROR", "propagate": False},
        "weasyprint": {"handlers": ["console"], "level": "ERROR", "propagate": False},
        "fontTools": {"handlers": ["console"], "level": "ERROR", "propagate": False},
    },
}
