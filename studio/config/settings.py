"""Settings. What differs from place to place comes from environment variables (docs/running.md)."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

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

ALLOWED_HOSTS = os.environ.get("OVOLO_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.messages",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "csp",
    "studio.accounts",
    "studio.projects",
    "studio.workspace",
    "studio.handover",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "studio.config.bodies.LimitedBodies",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.accounts.demo_user.sign_in_demo_user",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
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

DATABASES = {
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
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "projects"
LOGOUT_REDIRECT_URL = "projects"
SESSION_COOKIE_SAMESITE = "Lax"

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
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
