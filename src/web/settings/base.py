"""Settings that hold however the application runs.

What differs is read from the environment.
"""

import os
from datetime import timedelta
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF

BENCH = Path(__file__).resolve().parents[1]

SECRET_KEY = os.environ.get("SECRET_KEY", "")
# Slow work is done beside the serving, by a worker of its own (launch/beside.py).
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
DATABASES = {"default": dj_database_url.config(conn_max_age=60, conn_health_checks=True)}
DEBUG = False
ALLOWED_HOSTS: list[str] = []
DEMO_MODE = False
PROXIES: list[str] = []

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "django.contrib.staticfiles",
    "django_htmx",
    "csp",
    "axes",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "django_tasks",
    "django_tasks_db",
    "web.shops",
    "web.shelf",
    "web.builds",
    "web.pictures",
    "web.sheets",
    "web.exchange",
    "web.programs",
    "ninja",
    "web.page",
]
MIDDLEWARE = [
    "web.page.errors.RequestNumberMiddleware",
    "web.page.health.HealthMiddleware",
    "django.middleware.security.SecurityMiddleware",
    # Tokens in a page are masked differently each time and the answer's length is padded, so its size reveals nothing.
    "django.middleware.gzip.GZipMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "web.shops.clean.HeadersMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "web.shops.session_age.SessionAgeMiddleware",
    "web.shops.program_keys.ProgramKeyMiddleware",
    # No body is read before it is known who sends it.
    "web.shops.bodies.BodyMiddleware",
    "web.shops.clean.NoNulMiddleware",
    "web.shops.signed_out.SignedOutMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "web.page.offline.OwnerMiddleware",
    "web.shops.scope.ShopScopeMiddleware",
    "web.shops.clock.ClockMiddleware",
    "web.shops.once.OnceMiddleware",
    "web.builds_list.mend.UnreadableMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# Guessing a password leads to a wait, for each name and address alone, so that nobody locks others out.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "web.shops.address.client_address"
AXES_WHITELIST_CALLABLE = "web.shops.devices.is_remembered"
AXES_RESET_ON_SUCCESS = True
AXES_HTTP_RESPONSE_CODE = 429
AXES_LOCKOUT_TEMPLATE = "accounts/wait.html"
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
ROOT_URLCONF = "web.urls"
WSGI_APPLICATION = "web.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        # A station has its templates in its own folder.
        "DIRS": [BENCH / "templates", BENCH / "stations"],
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["web.page.templatetags.once", "web.page.templatetags.program"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "web.page.context.everywhere",
            ],
        },
    }
]

AUTH_USER_MODEL = "shops.Person"
CSRF_FAILURE_VIEW = "web.shops.signed_out.token_is_old"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "builds"
LOGOUT_REDIRECT_URL = "sign-in"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    # The list of twenty thousand common passwords that comes with Django.
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]
SESSION_COOKIE_AGE = 30 * 24 * 3600
OTP_TOTP_ISSUER = "Astute Mole"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "static/"
STATIC_ROOT = os.environ.get("STATIC_ROOT")
STATICFILES_DIRS = [BENCH / "static"]
# Only what our own pages use: packages bring 27 MB more, which took a minute to compress.
STATICFILES_FINDERS = ["django.contrib.staticfiles.finders.FileSystemFinder"]
# A whole engine's form sent without script has a field for every slice of clay.
DATA_UPLOAD_MAX_NUMBER_FIELDS = 4000
DATA_UPLOAD_MAX_MEMORY_SIZE = 6_000_000

# Bootstrap's stylesheet draws its form marks from data: addresses.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF, "data:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "worker-src": [SELF],
        "manifest-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
