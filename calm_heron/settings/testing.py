"""Settings for the tests: the same, but with plain static files and cheap password hashing."""

from calm_heron.settings.base import *  # noqa: F403
from calm_heron.settings.base import LOGGING, MIDDLEWARE

DEMO = True
# A worker would not see what a test has not committed.
WORK_BEHIND = False
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
STATIC_ROOT = None
# Tests read sentences as they are written, with plain spaces before units; that pages have them unbroken has tests of its own.
MIDDLEWARE.remove("calm_heron.site.middleware.unbroken")
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
ACCOUNT_RATE_LIMITS = False
MFA_RATE_LIMITS = False
# Tests provoke refusals by the dozen; what they check they check in the answers.
LOGGING["handlers"]["nowhere"] = {"class": "logging.NullHandler"}  # type: ignore[index]
for name in ("django.request", "calm_heron", "procrastinate"):
    LOGGING["loggers"][name] = {"handlers": ["nowhere"], "propagate": False}  # type: ignore[index]
