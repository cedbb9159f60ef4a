"""Settings that hold however the application runs. What differs is read from the environment."""

import os
from datetime import timedelta
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF

BENCH = Path(__file__).resolve().parents[1]

SECRET_KEY = os.environ.get("SECRET_KEY", "")
# What takes seconds is done beside the serving of pages, by a worker of its own (launch/beside.py).
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
    "bench.shops",
    "bench.shelf",
    "bench.builds",
    "bench.pictures",
    "bench.sheets",
    "bench.exchange",
    "bench.programs",
    "ninja",
    "bench.page",
]
MIDDLEWARE = [
    "bench.page.errors.RequestNumberMiddleware",
    "bench.page.health.HealthMiddleware",
    "django.middleware.security.SecurityMiddleware",
    # Tokens in a page are masked anew each time, and the answer's length is padded: nothing is learnt from its size.
    "django.middleware.gzip.GZipMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "bench.shops.clean.HeadersMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "bench.shops.session_age.SessionAgeMiddleware",
    "bench.shops.program_keys.ProgramKeyMiddleware",
    # Nothing of a body is read before it is known who sends it.
    "bench.shops.bodies.BodyMiddleware",
    "bench.shops.clean.NoNulMiddleware",
    "bench.shops.signed_out.SignedOutMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "bench.page.offline.OwnerMiddleware",
    "bench.shops.scope.ShopScopeMiddleware",
    "bench.shops.clock.ClockMiddleware",
    "bench.shops.once.OnceMiddleware",
    "bench.stand.mend.UnreadableMiddleware",
    "axes.middleware.AxesMiddleware",
]
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
# Whoever guesses a password is told to wait; each name from each address by itself, so that nobody locks others out.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_CLIENT_IP_CALLABLE = "bench.shops.address.client_address"
AXES_WHITELIST_CALLABLE = "bench.shops.devices.is_remembered"
AXES_RESET_ON_SUCCESS = True
AXES_HTTP_RESPONSE_CODE = 429
AXES_LOCKOUT_TEMPLATE = "shops/wait.html"
AXES_ENABLE_ADMIN = False
AXES_VERBOSE = False
ROOT_URLCONF = "bench.urls"
WSGI_APPLICATION = "bench.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        # A station keeps its templates in its own folder.
        "DIRS": [BENCH / "templates", BENCH / "stations"],
        "APP_DIRS": True,
        "OPTIONS": {
            "builtins": ["bench.page.templatetags.once"],
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "bench.page.context.everywhere",
            ],
        },
    }
]

AUTH_USER_MODEL = "shops.Person"
CSRF_FAILURE_VIEW = "bench.shops.signed_out.token_is_old"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "stand"
LOGOUT_REDIRECT_URL = "sign-in"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    # The list of twenty thousand that ships with Django.
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
# Only what our own pages use: packages bring 27 MB of theirs, which took a minute to pack and nobody asks for.
STATICFILES_FINDERS = ["django.contrib.staticfiles.finders.FileSystemFinder"]
# A whole engine's sheet sent without script has a field for every slice of clay.
DATA_UPLOAD_MAX_NUMBER_FIELDS = 4000
DATA_UPLOAD_MAX_MEMORY_SIZE = 6_000_000

# Bootstrap's own stylesheet draws its form marks from data: addresses.
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
