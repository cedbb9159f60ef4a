"""The tests: the demo's application with fast password hashing."""

from web.settings.demo import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
ALLOWED_HOSTS = ["*"]
# No worker runs beside the tests: tasks are done at once, except in tests about waiting.
TASKS = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
