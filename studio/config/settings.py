"""Settings. What differs from place to place comes from environment variables (docs/running.md)."""

from __future__ import annotations

import os
import secrets
from datetime import timedelta
from pathlib import Path
from typing import Any

from csp.constants import NONCE, NONE, SELF

BASE = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("OVOLO_VAR", BASE / "var"))
VAR.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    """From the environment, or made once and kept beside the database."""
    given = os.environ.get("OVOLO_SECRET_KEY")
    if given:
        return given
    kept = VAR / "secret-key"
    if not kept.exists():
        kept.write_text(secrets.token_urlsafe(50))
        kept.chmod(0o600)
    return kept.read_text()


SECRET_KEY = _secret_key()
DEBUG = os.environ.get("OVOLO_DEBUG") == "1"
DEMO = os.environ.get("OVOLO_DEMO") == "1"
"""Signs every visitor in as the demo user: for a demonstration on one's own machine only."""

SIGN_UP = os.environ.get("OVOLO_SIGN_UP", "invited")
"""Who may make an account: anybody (`open`), who has an invitation (`invited`), nobody (`closed`)."""

MOST_STUDIES = int(os.environ.get("OVOLO_MOST_STUDIES", "500"))
MOST_BYTES = int(os.environ.get("OVOLO_MOST_MEGABYTES", "1000")) * 1_000_000
"""What one person may keep: studies, and bytes of sheets and files."""

METRICS_TOKEN = os.environ.get("OVOLO_METRICS_TOKEN", "")

ALLOWED_HOSTS = os.environ.get("OVOLO_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.messages",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "studio.accounts",
    "studio.rights",
    "studio.projects",
    "studio.together",
    "studio.learning",
    "studio.reference",
    "studio.workspace",
    "studio.handover",
]

PROXY = os.environ.get("OVOLO_PROXY") == "1"
"""Whether a proxy stands before it, which says where a request is from and whether it came by HTTPS."""

MIDDLEWARE = [
    *(["studio.service.requests_told.behind_proxy"] if PROXY else []),
    "studio.service.requests_told.tell_requests",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "studio.config.bodies.LimitedBodies",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.accounts.demo_user.sign_in_demo_user",
    "studio.accounts.sessions.note_seen",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "axes.middleware.AxesMiddleware",
    "studio.service.no_database.SayNoDatabase",
]

ROOT_URLCONF = "studio.config.urls"
WSGI_APPLICATION = "studio.config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE / "studio" / "templates"],
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "csp.context_processors.nonce",
            ]
        },
    }
]

DATABASES: dict[str, dict[str, Any]] = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "ovolo.sqlite3",
        "CONN_MAX_AGE": 600,  # opening the file anew costs more than most requests
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; "
                "PRAGMA mmap_size=134217728; PRAGMA cache_size=-16000;"
            ),
        },
        # A file, for threads of a live server cannot share a database in memory.
        "TEST": {"NAME": VAR / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# Whoever tries passwords for a name is refused for a while, from where they try.
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "studio.accounts.throttle.too_often"
AXES_RESET_ON_SUCCESS = True
AXES_ENABLE_ADMIN = False
# What is counted of requests (django-ratelimit) stands in the memory of the one process that answers.
SILENCED_SYSTEM_CHECKS = ["django_ratelimit.E003", "django_ratelimit.W001"]
PASSWORD_RESET_TIMEOUT = 24 * 3600
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "projects"
LOGOUT_REDIRECT_URL = "projects"
SESSION_COOKIE_SAMESITE = "Lax"

HTTPS = os.environ.get("OVOLO_HTTPS") == "1"
"""Whether it is reached by HTTPS alone: cookies go no other way, and browsers are told to remember it."""

if HTTPS:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = ["^health$", "^metrics$"]  # asked from the machine itself
    SECURE_HSTS_SECONDS = int(os.environ.get("OVOLO_HSTS_SECONDS", str(365 * 24 * 3600)))
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = True
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
if PROXY:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

# Mail goes into files until a server is named.
EMAIL_HOST = os.environ.get("OVOLO_MAIL_HOST", "")
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if EMAIL_HOST else 'filebased'}.EmailBackend"
EMAIL_FILE_PATH = VAR / "mail"
EMAIL_PORT = int(os.environ.get("OVOLO_MAIL_PORT", "587"))
EMAIL_HOST_USER = os.environ.get("OVOLO_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("OVOLO_MAIL_PASSWORD", "")
EMAIL_USE_TLS = os.environ.get("OVOLO_MAIL_TLS", "1") == "1"
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = os.environ.get("OVOLO_MAIL_FROM", "ovolo@localhost")

STATIC_URL = "static/"
STATICFILES_DIRS = [BASE / "studio" / "static"]
WHITENOISE_USE_FINDERS = True
WHITENOISE_MAX_AGE = 0 if DEBUG else 300

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

DATA_UPLOAD_MAX_MEMORY_SIZE = 5_000_000
X_FRAME_OPTIONS = "DENY"
SECURE_REFERRER_POLICY = "same-origin"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:", "blob:"],
        "object-src": [NONE],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "form-action": [SELF],
    }
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"request_id": {"()": "studio.service.requests_told.WithRequestId"}},
    "formatters": {
        "words": {"format": "{levelname} {name} [{request_id}] {message}", "style": "{"},
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "format": "{asctime}{levelname}{name}{message}{request_id}",
            "style": "{",
        },
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "filters": ["request_id"],
            "formatter": "json" if os.environ.get("OVOLO_LOG") == "json" else "words",
        }
    },
    "root": {"handlers": ["console"], "level": "WARNING"},
    # Each request is told where logs are read by machines.
    "loggers": {"ovolo.requests": {"level": "INFO" if os.environ.get("OVOLO_LOG") == "json" else "WARNING"}},
}  # fmt: skip
