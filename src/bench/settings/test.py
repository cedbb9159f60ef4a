"""The tests: the demo's application with quick password hashing."""

from bench.settings.demo import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
ALLOWED_HOSTS = ["*"]
# No worker runs beside the tests: what they ask for is done at once, but for those that look at the waiting.
TASKS = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
