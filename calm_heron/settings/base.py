"""Settings. Everything that differs between machines comes from the environment, which ``./heron`` sets."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent.parent


def _told(name: str, otherwise: str = "") -> str:
    return os.environ.get(f"CALM_HERON_{name}", otherwise).strip()


SECRET_KEY = os.environ.get("CALM_HERON_SECRET_KEY", "")
DEBUG = False
# This machine by its own names always, so that the start command can see the server come up; others as they are named.
ALLOWED_HOSTS = [
    "127.0.0.1",
    "localhost",
    "[::1]",
    *(host.strip() for host in _told("HOSTS").split(",") if host.strip()),
]
# Whether the front page offers the demo workshop without a password.
DEMO = _told("DEMO") == "1"
# Whether what no page waits for is put into the queue (calm_heron/jobs).
WORK_BEHIND = True

# One proxy with TLS stands in front of the application, on this machine (docs/hosting.md): what it says of a request is believed.
BEHIND_TLS = _told("BEHIND_TLS") == "1"
if BEHIND_TLS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    # The start command asks for it on loopback, without the proxy.
    SECURE_REDIRECT_EXEMPT = [r"^alive/$", r"^ready/$", r"^metrics/$"]
    SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = LANGUAGE_COOKIE_SECURE = True
# A certificate of its own for the shop's network, and the file of the authority that phones are to trust. Browsers are not told that it has
# to stay so: the next start may be without.
if _told("HTTPS") == "1":
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = LANGUAGE_COOKIE_SECURE = True
AUTHORITY_FILE = _told("AUTHORITY")
# The address of who asks, for the limits on signing in: the one the proxy wrote last, or the other end of the connection.
ALLAUTH_TRUSTED_PROXY_COUNT = 1 if BEHIND_TLS else 0
# Whether other names under ours speak TLS is not ours to promise (W005, W021).
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

# Where the start command says whether nightly backups are made, and what lets a collector of figures in besides the operator; the folder
# in which the processes that serve count together.
NIGHTLY = _told("NIGHTLY")
METRICS_TOKEN = _told("METRICS_TOKEN")
METRICS_FOLDER = os.environ.get("PROMETHEUS_MULTIPROC_DIR", "")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    # Before allauth, whose pages it dresses.
    "calm_heron.site",
    "calm_heron.jobs",
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "calm_heron.workshops",
    "calm_heron.answers",
    "calm_heron.questions",
    "calm_heron.logbook",
    "calm_heron.people",
    "calm_heron.air",
    "calm_heron.stock",
    "calm_heron.measuring",
    "calm_heron.judging",
    "calm_heron.movement",
    "calm_heron.drying",
    "calm_heron.stacks",
    "calm_heron.kiln",
    "calm_heron.turning",
    "calm_heron.builds",
    "calm_heron.devices",
    "calm_heron.ask",
    "calm_heron.finding",
    "calm_heron.pieces",
    "calm_heron.pocket",
    "calm_heron.today",
    "calm_heron.demo",
    # Behind ours, whose widgets win.
    "django.forms",
    # Behind all whose jobs it looks for, in each app's tasks.py.
    "calm_heron.jobs.library.QueueConfig",
]
FORM_RENDERER = "django.forms.renderers.TemplatesSetting"

MIDDLEWARE = [
    "calm_heron.jobs.measuring.measured",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    # Pages are compressed. What a stranger could make a page repeat stands beside no secret of constant text: the token that guards forms
    # is masked anew in each page, and the middleware pads each answer by chance (docs/hosting.md).
    "django.middleware.gzip.GZipMiddleware",
    "calm_heron.site.middleware.unbroken",
    "calm_heron.site.middleware.carried_by_every_answer",
    "calm_heron.site.middleware.readable_requests",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "allauth.account.middleware.AccountMiddleware",
    "calm_heron.demo.middleware.no_account_for_visitors",
    "calm_heron.answers.middleware.answers_saved",
]

ROOT_URLCONF = "calm_heron.urls"
WSGI_APPLICATION = "calm_heron.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "calm_heron.site.context.every_page",
            ],
            "builtins": ["calm_heron.site.templatetags.wood_words", "calm_heron.site.templatetags.composed"],
        },
    }
]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("CALM_HERON_DATABASE_NAME", "calm_heron"),
        "USER": os.environ.get("CALM_HERON_DATABASE_USER", "calm_heron"),
        "PASSWORD": os.environ.get("CALM_HERON_DATABASE_PASSWORD", ""),
        "HOST": os.environ.get("CALM_HERON_DATABASE_HOST", "127.0.0.1"),
        "PORT": os.environ.get("CALM_HERON_DATABASE_PORT", "5432"),
        "CONN_MAX_AGE": 600,
        # A connection that died while the database was away is replaced at the next request.
        "CONN_HEALTH_CHECKS": True,
        # What is asked a third time over one connection is planned once: that halves the database's own time for a page.
        "OPTIONS": {"connect_timeout": 3, "server_side_binding": True, "prepare_threshold": 2},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

# Sign-in attempts are counted in the database, so that the limit holds across server processes.
CACHES = {"default": {"BACKEND": "django.core.cache.backends.db.DatabaseCache", "LOCATION": "calm_heron_cache"}}

AUTH_USER_MODEL = "workshops.Person"
AUTHENTICATION_BACKENDS = ["allauth.account.auth_backends.AuthenticationBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
ACCOUNT_USER_MODEL_USERNAME_FIELD = None
ACCOUNT_LOGIN_METHODS = {"email"}
ACCOUNT_SIGNUP_FIELDS = ["email*", "password1*"]
ACCOUNT_SIGNUP_FORM_CLASS = "calm_heron.people.forms.NameAtSignUp"
ACCOUNT_ADAPTER = "calm_heron.people.accounts.Accounts"
# "open", or "invited": only who holds an invitation may make an account.
SIGN_UP = _told("SIGN_UP", "open")
# No mail leaves this machine unless a mail server is named; then addresses are confirmed by it.
EMAIL_HOST = _told("MAIL_HOST")
HAS_MAIL = bool(EMAIL_HOST)
EMAIL_BACKEND = f"django.core.mail.backends.{'smtp' if HAS_MAIL else 'dummy'}.EmailBackend"
EMAIL_PORT = int(_told("MAIL_PORT", "587"))
EMAIL_HOST_USER, EMAIL_HOST_PASSWORD = _told("MAIL_USER"), _told("MAIL_PASSWORD")
EMAIL_USE_TLS = _told("MAIL_PLAIN") != "1"
EMAIL_TIMEOUT = 10
DEFAULT_FROM_EMAIL = _told("MAIL_FROM", f"calm-heron@{(ALLOWED_HOSTS[3:] or ['localhost'])[0]}")
ACCOUNT_EMAIL_SUBJECT_PREFIX = ""
ACCOUNT_EMAIL_VERIFICATION = "mandatory" if HAS_MAIL else "none"
# By a code that is typed where one signs up: an invitation that led there is not lost on the way.
ACCOUNT_EMAIL_VERIFICATION_BY_CODE_ENABLED = HAS_MAIL
ACCOUNT_PREVENT_ENUMERATION = True
PASSWORD_RESET_TIMEOUT = 60 * 60 * 24
ACCOUNT_FORMS = {
    "reset_password_from_key": "calm_heron.people.account_forms.NewPassword",
    "change_password": "calm_heron.people.account_forms.AnotherPassword",
}
MFA_FORMS = {
    "authenticate": "calm_heron.people.account_forms.SecondStepCode",
    "reauthenticate": "calm_heron.people.account_forms.CodeOnceMore",
    "activate_totp": "calm_heron.people.account_forms.AddSecondStep",
}
MFA_ADAPTER = "calm_heron.people.accounts.SecondStep"
MFA_TOTP_ISSUER = "Calm Heron"
# Without mail no address is ever confirmed.
MFA_ALLOW_UNVERIFIED_EMAIL = True
ACCOUNT_SESSION_REMEMBER = True
ACCOUNT_LOGOUT_REDIRECT_URL = "/"
LOGIN_URL = "account_login"
LOGIN_REDIRECT_URL = "/"

LANGUAGE_CODE = "en"
USE_I18N = False
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = os.environ.get("CALM_HERON_STATIC_ROOT")
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "calm_heron.site.storage.Hashed"},
}

MESSAGE_STORAGE = "django.contrib.messages.storage.cookie.CookieStorage"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 60
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "calm_heron.site.views.stale_form"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
# The largest thing that is pasted is a table of the whole stock (see stock.table); percent-encoded it may be half as long again.
DATA_UPLOAD_MAX_MEMORY_SIZE = 6_500_000
DATA_UPLOAD_MAX_NUMBER_FIELDS = 500

# Logs are lines for people, or a line of JSON each for who collects them.
LOG_FORMAT = "json" if _told("LOG") == "json" else "plain"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(message)s"}, "json": {"()": "calm_heron.jobs.logs.JsonLines"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": LOG_FORMAT}},
    "loggers": {
        "django.request": {"handlers": ["console"], "level": "ERROR", "propagate": False},
        "calm_heron": {"handlers": ["console"], "level": "WARNING", "propagate": False},
        "procrastinate": {"handlers": ["console"], "level": "WARNING", "propagate": False},
    },
}
