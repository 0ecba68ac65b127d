"""Settings of the server. Everything local lives in `var/`; the environment may move it."""

import os
import secrets
from pathlib import Path

BASE_DIR = Path(__file__).resolve().parent.parent
VAR_DIR = Path(os.environ.get("MALLET_VAR", BASE_DIR / "var"))
WEB_DIST = BASE_DIR / "web" / "dist"
VAR_DIR.mkdir(parents=True, exist_ok=True)


def _secret_key() -> str:
    if key := os.environ.get("MALLET_SECRET_KEY"):
        return key
    path = VAR_DIR / "secret_key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", *filter(None, os.environ.get("MALLET_HOSTS", "").split(","))]
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("MALLET_ORIGINS", "").split(",") if o]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "ninja",
    "practice.accounts",
    "practice.house",
    "practice.equipment",
    "practice.restorations",
    "practice.runs",
    "practice.records",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "practice.planned.count_work",
    "practice.once.remember",
]
ROOT_URLCONF = "practice.urls"
WSGI_APPLICATION = "practice.wsgi.application"
TEMPLATES: list[dict[str, object]] = []

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR_DIR / "mallet.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            # An acknowledged event must survive the power cut too, not only the process.
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
ATOMIC_REQUESTS = False

AUTH_USER_MODEL = "accounts.User"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_AGE = 60 * 60 * 12
CSRF_COOKIE_SAMESITE = "Lax"
# A case with a scanned pair: two files of 12 MB in base64, and what else it says.
DATA_UPLOAD_MAX_MEMORY_SIZE = 32 * 1024 * 1024
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
if os.environ.get("MALLET_HTTPS"):
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB_DIST] if WEB_DIST.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_IMMUTABLE_FILE_TEST = r"^.+\-[0-9A-Za-z_-]{8}\..+$"
