"""Settings; everything that differs between installations comes from the environment."""

import os
from pathlib import Path
from typing import Any

from csp.constants import NONCE, SELF

from lighten import (
    BitonalMethod,
    ColourChange,
    ExtraKind,
    FilterKind,
    PageColours,
    PartKind,
    PictureClass,
    PictureCoding,
    Switch,
)
from web.queue.priorities import PRIORITIES, queue_name

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("GREEN_SATCHEL_VAR", ROOT / "var"))
# In a checkout it is built beside; a wheel carries it within.
_BUILT = ROOT / "frontend" / "dist"
FRONT_END = _BUILT if _BUILT.is_dir() else ROOT / "web" / "built"

DEBUG = os.environ.get("GREEN_SATCHEL_DEBUG", "") == "1"
# The demo signs every visitor in to one account and must not be reachable from elsewhere.
IS_DEMO = os.environ.get("GREEN_SATCHEL_DEMO", "") == "1"
SECRET_KEY = os.environ.get("GREEN_SATCHEL_SECRET_KEY", "only-for-the-demo-and-tests" * 2)
ALLOWED_HOSTS = os.environ.get("GREEN_SATCHEL_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "axes",
    "csp",
    "django_tasks",
    "django_tasks_db",
    "rest_framework",
    "drf_spectacular",
    "web.accounts",
    "web.jobs",
    "web.presets",
    "web.satchels",
    "web.intake",
    "web.mail",
    "web.printing",
    "web.rasters",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
if IS_DEMO:
    MIDDLEWARE.insert(-2, "web.accounts.demo.sign_visitor_in")

ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [FRONT_END],
        "APP_DIRS": True,
        "OPTIONS": {"context_processors": ["csp.context_processors.nonce"]},
    }
]

_CONNECTED_S = 600
DATABASES: Any = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        # Opening it takes as long as three questions.
        "CONN_MAX_AGE": _CONNECTED_S,
        "NAME": os.environ.get("GREEN_SATCHEL_DATABASE", VAR / "satchels.sqlite3"),
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; "
            # What is deleted is overwritten.
            "PRAGMA secure_delete=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# Passwords kept by another, or to another measure, are changed over on signing in.
PASSWORD_HASHERS = [
    "web.accounts.hashers.OfficePasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_VERBOSE = False
# From one address in vain, within the time above, before names that never came in there wait.
SPRAYED_NAMES_LIMIT = 12

# On one machine all lies in one file. On several, a server holds the rows, and Redis the queue.
DATABASE_URL = os.environ.get("GREEN_SATCHEL_DATABASE_URL", "")
REDIS_URL = os.environ.get("GREEN_SATCHEL_REDIS_URL", "")
if DATABASE_URL:
    import dj_database_url

    DATABASES = {
        "default": dj_database_url.parse(
            DATABASE_URL, conn_max_age=_CONNECTED_S, conn_health_checks=True
        )
    }
TASKS: dict[str, Any] = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
if REDIS_URL:
    INSTALLED_APPS += ["django_rq", "django_tasks_rq"]
    # No queues: all of those below.
    TASKS = {"default": {"BACKEND": "web.queue.redis_queue.PrioritisedBackend", "QUEUES": []}}
    # A job has limits of its own: no task is broken off.
    _RQ = {"URL": REDIS_URL, "DEFAULT_TIMEOUT": -1}
    RQ_QUEUES = {"default": _RQ, **{queue_name(one): _RQ for one in PRIORITIES}}

MEDIA_ROOT = Path(os.environ.get("GREEN_SATCHEL_FILES", VAR / "files"))
FILE_UPLOAD_TEMP_DIR = VAR / "uploads"
# For whoever runs it, and nobody else on the machine.
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
FILE_UPLOAD_HANDLERS = ["web.uploads.CheckedUploadHandler"]
DATA_UPLOAD_MAX_NUMBER_FILES = 1
STATIC_URL = "static/"
STATIC_ROOT = VAR / "static"
for _folder in (FILE_UPLOAD_TEMP_DIR, STATIC_ROOT):
    _folder.mkdir(parents=True, exist_ok=True)
# The built front end is served as it is; its file names change with their content.
WHITENOISE_USE_FINDERS = True
WHITENOISE_IMMUTABLE_FILE_TEST = r"^.+-[0-9A-Za-z_-]{8}\.[a-z0-9]+$"
STATICFILES_DIRS = [("app", FRONT_END / "app")]
LANGUAGE_CODE, TIME_ZONE, USE_TZ = "en-gb", "UTC", True

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_PARSER_CLASSES": ["web.json_parser.CarefulJSONParser"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "web.problems.as_problem",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Green Satchel",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "ENUM_NAME_OVERRIDES": {
        "CarrierEnum": ["file", "message"],
        "PartKindEnum": list(PartKind),
        "ExtraKindEnum": list(ExtraKind),
        "FilterKindEnum": list(FilterKind),
        "CodingEnum": list(PictureCoding),
        "SwitchEnum": list(Switch),
        "BitonalMethodEnum": list(BitonalMethod),
        "PageColoursEnum": list(PageColours),
        "PictureClassEnum": list(PictureClass),
        "ColourChangeEnum": list(ColourChange),
        "DocumentStateEnum": "web.satchels.models.DocumentState",
        "CopyStateEnum": "web.satchels.models.CopyState",
        "ScanStateEnum": "web.intake.models.ScanState",
        "SendingStateEnum": "web.mail.models.SendingState",
        "WorkStateEnum": "web.satchels.models.WorkState",
        "PaperSourceEnum": ["glass", "feeder"],
        "ColourModeEnum": ["colour", "grey", "bitonal"],
    },
}

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "img-src": [SELF, "data:"],
        "style-src": [SELF, NONCE],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
        "form-action": [SELF],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"
CSRF_FAILURE_VIEW = "web.problems.csrf_failed"
CSRF_COOKIE_HTTPONLY = False  # the front end sends it back in a header
SESSION_COOKIE_HTTPONLY = True
IS_SERVED_BY_TLS = os.environ.get("GREEN_SATCHEL_TLS", "") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = IS_SERVED_BY_TLS
if IS_SERVED_BY_TLS:
    # What the web server in front says; waitress believes it from this machine alone.
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = True
    SECURE_REDIRECT_EXEMPT = [r"^health$"]
    SECURE_HSTS_SECONDS = 31_536_000
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS if host != "*"]
# Whether other names below its own speak TLS, and may be listed for it, is not ours to say.
SILENCED_SYSTEM_CHECKS = ["security.W005", "security.W021"]

# What one person may ask of the machine.
UPLOAD_LIMIT_BYTES = 500_000_000
DOCUMENTS_LIMIT = 500
# Of an account, originals and copies together.
ACCOUNT_LIMIT_BYTES = int(os.environ.get("GREEN_SATCHEL_ACCOUNT_BYTES", "20000000000"))
ACCOUNT_DOCUMENTS_LIMIT = int(os.environ.get("GREEN_SATCHEL_ACCOUNT_DOCUMENTS", "5000"))
LINKS_LIMIT = 20  # open at a time, to one copy
# Of the disk, for the database and what is under way: files that would use it up are refused.
DISK_RESERVE_BYTES = int(os.environ.get("GREEN_SATCHEL_RESERVE_BYTES", "200000000"))
TASK_LIMIT_SECONDS = 1800
TASK_LIMIT_MEMORY_BYTES = 6_000_000_000  # of address space, for each process
# Codings that trials made and runs use again; what has been unused longest goes first.
# Held by every worker of this machine.
WORKERS_LOCK_PATH = VAR / "workers.lock"
CODINGS_PATH = VAR / "codings.sqlite3"
CODINGS_LIMIT_BYTES = int(os.environ.get("GREEN_SATCHEL_CODINGS_BYTES", "2000000000"))
# Trials after weighing, so that estimates are narrow and a limit can be met; they use idle cores.
# Mail goes out where a server is named; to a folder where one is, for trying it.
EMAIL_HOST = os.environ.get("GREEN_SATCHEL_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("GREEN_SATCHEL_MAIL_PORT", "25"))
EMAIL_HOST_USER = os.environ.get("GREEN_SATCHEL_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("GREEN_SATCHEL_MAIL_PASSWORD", "")
EMAIL_USE_TLS = os.environ.get("GREEN_SATCHEL_MAIL_TLS", "") == "1"
EMAIL_TIMEOUT = 30
EMAIL_FILE_PATH = os.environ.get("GREEN_SATCHEL_MAIL_FOLDER", "")
_MAIL_WAY = "filebased" if EMAIL_FILE_PATH else "smtp"
EMAIL_BACKEND = f"django.core.mail.backends.{_MAIL_WAY}.EmailBackend"
DEFAULT_FROM_EMAIL = os.environ.get("GREEN_SATCHEL_MAIL_FROM", "green-satchel@localhost")
HAS_MAIL = bool(EMAIL_HOST or EMAIL_FILE_PATH)
MAIL_LIMIT_AN_HOUR = int(os.environ.get("GREEN_SATCHEL_MAIL_AN_HOUR", "30"))

HAS_TRIALS = os.environ.get("GREEN_SATCHEL_TRIALS", "1") == "1"
# Names and eSCL roots of network scanners, as "Office=http://10.0.0.7/eSCL;Archive=http://...". No
# visitor can name another.
SCANNERS = dict(
    one.split("=", 1)
    for one in os.environ.get("GREEN_SATCHEL_SCANNERS", "").split(";")
    if "=" in one
)
INTAKE_PAGES_LIMIT = 300
LINK_DAYS = 14
KEPT_DAYS = int(os.environ.get("GREEN_SATCHEL_KEPT_DAYS", "30"))

# "json": what happens in lines for machines, with ids and no names of files. Else what goes wrong.
_LOG_WAY = os.environ.get("GREEN_SATCHEL_LOG", "text")
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"about": {"()": "web.logs.AboutWork"}},
    "formatters": {
        "text": {"format": "{levelname} {message}", "style": "{"},
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "fmt": "{asctime}{levelname}{name}{message}",
            "style": "{",
            "rename_fields": {"asctime": "at", "levelname": "level", "name": "logger"},
        },
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "formatter": _LOG_WAY,
            "filters": ["about"],
        }
    },
    # They say of each task less than we do.
    "loggers": {"django_tasks": {"level": "WARNING"}, "rq.worker": {"level": "WARNING"}},
    "root": {"handlers": ["console"], "level": "INFO" if _LOG_WAY == "json" else "WARNING"},
}
