"""Settings, all from the environment. `tools/` sets it for the demo and the tests; see docs/running.md."""

import os
from pathlib import Path
from urllib.parse import urlsplit

from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[2]


def _env(name: str, default: str | None = None) -> str:
    value = os.environ.get(f"GONFALON_{name}", default)
    if value is None:
        raise ImproperlyConfigured(f"Set GONFALON_{name}; docs/running.md lists what is needed.")
    return value


SECRET_KEY = _env("SECRET_KEY")
DEBUG = False
ALLOWED_HOSTS = _env("HOSTS", "localhost,127.0.0.1").split(",")
TLS = _env("TLS", "no") == "yes"
PROXIES = int(_env("PROXIES", "0"))

INSTALLED_APPS = [
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "treebeard",
    "rest_framework",
    "drf_spectacular",
    "django_tasks",
    "django_tasks_db",
    "gonfalon.ledger",
    "gonfalon.mail",
    "gonfalon.accounts",
    "gonfalon.access",
    "gonfalon.content",
    "gonfalon.verify",
    "gonfalon.demo",
]
EXTENSIONS = _env("EXTENSIONS", "gonfalon_extensions.results_board,gonfalon_extensions.tide_table").split(",")
EXTENSIONS = [package.strip() for package in EXTENSIONS if package.strip()]
INSTALLED_APPS += EXTENSIONS  # for the templates of their components
MIDDLEWARE = [
    "gonfalon.server.middleware.security_headers",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "gonfalon.server.middleware.site_hosts",
    "gonfalon.server.middleware.session",
    "gonfalon.api.rehearsing.Rehearsals",
]
ROOT_URLCONF = "gonfalon.server.urls"
WSGI_APPLICATION = "gonfalon.server.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [ROOT / "web" / "dist"],
        "APP_DIRS": True,
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.mysql",
        "HOST": _env("DB_HOST", "127.0.0.1"),
        "PORT": _env("DB_PORT", "3306"),
        "NAME": _env("DB_NAME", "gonfalon"),
        "USER": _env("DB_USER", "gonfalon"),
        "PASSWORD": _env("DB_PASSWORD", ""),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "charset": "utf8mb4",
            "isolation_level": "repeatable read",
            # Whoever locks a row that was changed since they read it is told so, and tried again.
            "init_command": "SET SESSION innodb_snapshot_isolation = ON, innodb_lock_wait_timeout = 5",
        },
        "TEST": {"CHARSET": "utf8mb4", "COLLATION": "utf8mb4_unicode_ci"},
    }
}
DATABASE_ROUTERS = ["gonfalon.work.apart.Router"]
DATABASES["apart"] = DATABASES["default"] | {"TEST": {"MIRROR": "default"}}
"""The same database once more, for what is written whatever becomes of a request: `gonfalon/work/apart.py`."""
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.Account"
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "gonfalon.accounts.passwords.GuessableValidator"},
]

TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
ADDRESS = _env("ADDRESS", "http://localhost:8000").rstrip("/")
"""Where people reach this installation: what links in mails begin with, and whom passkeys are for."""
HOST = urlsplit(ADDRESS).hostname or "localhost"
EMAIL_HOST = _env("MAIL_HOST", "127.0.0.1")
EMAIL_PORT = int(_env("MAIL_PORT", "25"))
EMAIL_HOST_USER = _env("MAIL_USER", "")
EMAIL_HOST_PASSWORD = _env("MAIL_PASSWORD", "")
EMAIL_USE_TLS = _env("MAIL_TLS", "no") == "yes"
EMAIL_TIMEOUT = 20
DEFAULT_FROM_EMAIL = _env("MAIL_FROM", "Gonfalon <gonfalon@localhost>")

SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = TLS
SESSION_COOKIE_AGE = 12 * 60 * 60
SIGNED_IN_HOURS = float(_env("SIGNED_IN_HOURS", "24"))
CSRF_FAILURE_VIEW = "gonfalon.api.problems.csrf_failure"
SECURE_SSL_REDIRECT = TLS
SECURE_HSTS_SECONDS = 31_536_000 if TLS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if TLS else None
SECURE_REFERRER_POLICY = "same-origin"

LANGUAGE_CODE = "en"
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "/static/"
WHITENOISE_IMMUTABLE_FILE_TEST = r"/assets/.+-[\w-]{8}\.\w+$"  # the build puts a digest into these names
STATIC_ROOT = _env("STATIC", str(ROOT / ".run" / "static"))
STATICFILES_DIRS = [ROOT / "web" / "dist"] if (ROOT / "web" / "dist").is_dir() else []
MEDIA_ROOT = _env("MEDIA", str(ROOT / ".run" / "media"))
DATA_UPLOAD_MAX_MEMORY_SIZE = 5 * 1024 * 1024

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["gonfalon.api.authentication.SessionAccount"],
    "DEFAULT_PERMISSION_CLASSES": [],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["gonfalon.api.parsing.Json"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "gonfalon.api.problems.handler",
    "UNAUTHENTICATED_USER": None,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Gonfalon",
    "DESCRIPTION": "Define, assign, limit and verify who may do what on a website.",
    "VERSION": "0.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "ENUM_GENERATE_CHOICE_DESCRIPTION": False,
    "POSTPROCESSING_HOOKS": ["gonfalon.api.schema.add_problems"],
}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"stderr": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["stderr"], "level": "WARNING"},
}
