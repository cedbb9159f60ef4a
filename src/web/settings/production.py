"""A shop's own server, behind a proxy that speaks TLS (docs/serving.md)."""

import os

from web.settings.base import *  # noqa: F403

ALLOWED_HOSTS = os.environ.get("ALLOWED_HOSTS", "").split(",")
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS if host]
# Proxies whose statement of a client's address counts; the proxy of docs/serving.md is on loopback.
PROXIES = os.environ.get("PROXIES", "127.0.0.1").split(",")
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
# Errors are written to standard error, one line of JSON each, for log collectors.
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"lines": {"()": "web.page.errors.JsonLines"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "lines"}},
    "root": {"handlers": ["stderr"], "level": "WARNING"},
    "loggers": {"django": {"handlers": [], "level": "WARNING", "propagate": True}},
}
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
