"""Settings. Everything that differs between places comes from the environment; the defaults are the safe ones."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

import dj_database_url
from csp.constants import NONE, SELF, UNSAFE_INLINE

from config.logs import configuration

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("COOMBE_VAR", ROOT / "var"))
WEB_BUILD = ROOT / "web" / "dist"


def _secret_key() -> str:
    """The key of this installation, made on first start and readable by its owner only."""
    path = VAR / "secret-key"
    if not path.exists():
        VAR.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


os.umask(0o077)  # what is written here is this user's alone
SECRET_KEY = os.environ.get("COOMBE_SECRET_KEY") or _secret_key()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("COOMBE_HOSTS", "127.0.0.1,localhost,[::1]").split(",")

INSTALLED_APPS = [
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "drf_spectacular_sidecar",
    "django_tasks",
    "django_tasks_db",
    "django_otp",
    "django_otp.plugins.otp_totp",
    "django_otp.plugins.otp_static",
    "csp",
    "config",
    "accounts",
    "history",
    "cars",
    "courses",
    "runs",
    "learning",
    "plans",
    "days",
    "recording",
    "comparisons",
    "studies",
    "reports",
    "archive",
    "webhooks",
    "home",
    "demo",
    "trials",
]

MIDDLEWARE = [
    "django_prometheus.middleware.PrometheusBeforeMiddleware",
    "config.logs.RequestLog",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "config.caching.no_store",
    "config.build.build_header",
    "accounts.sessions.SeenMiddleware",
    "accounts.security.SecurityLogMiddleware",
    "history.middleware.action_header",
    "config.again.AskAgain",
    "django_prometheus.middleware.PrometheusAfterMiddleware",
]

ROOT_URLCONF = "config.urls"
ASGI_APPLICATION = "config.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [WEB_BUILD],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ]
        },
    }
]

# Requests are answered in threads that stay (config.handling): each keeps a connection, and looks at it first.
DATABASES = {
    "default": dj_database_url.config(
        default="mysql://coombe@127.0.0.1:3306/coombe",
        engine="config.mariadb",
        conn_max_age=60,
        conn_health_checks=True,
    )
}
# In a cluster a node first applies what others have committed, so that everybody reads what they wrote.
CLUSTER = os.environ.get("COOMBE_CLUSTER") == "1"
SYNC = ", wsrep_sync_wait=1" if CLUSTER else ""
DATABASES["default"].setdefault("OPTIONS", {}).update(
    charset="utf8mb4",
    connect_timeout=10,
    init_command=f"SET sql_mode='STRICT_ALL_TABLES', default_storage_engine=INNODB{SYNC}",
)
DATABASES["default"]["TEST"] = {"MIGRATE": False}  # tests of upgrades carry out the migrations
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
TEST_RUNNER = "config.testing.TotalsRunner"

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = ["accounts.throttling.HoldBackBackend", "django.contrib.auth.backends.ModelBackend"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
CSRF_FAILURE_VIEW = "config.errors.forbidden"
OTP_TOTP_ISSUER = "Coombe"
# Where people may sign in instead, by OpenID Connect; none without an issuer.
SIGN_IN = {
    "issuer": os.environ.get("COOMBE_SIGN_IN_ISSUER", "").rstrip("/"),
    "client_id": os.environ.get("COOMBE_SIGN_IN_CLIENT", "coombe"),
    "client_secret": os.environ.get("COOMBE_SIGN_IN_SECRET", ""),
    "name": os.environ.get("COOMBE_SIGN_IN_NAME", "your team's account"),
}

SESSION_ENGINE = "accounts.sessions"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = os.environ.get("COOMBE_HTTPS") == "1"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "script-src": [SELF],
        # Ant Design writes its component styles into style elements at run time.
        "style-src": [SELF, UNSAFE_INLINE],
        "img-src": [SELF, "data:", "blob:"],
        "font-src": [SELF],
        "connect-src": [SELF],
        "object-src": [NONE],
        "base-uri": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
    }
}

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-us"

STATIC_URL = "/static/"
STATIC_ROOT = ROOT / "var" / "static"  # made by setup, the same for every home
STATICFILES_DIRS = [WEB_BUILD] if WEB_BUILD.is_dir() else []
# The store: a folder, or where machines share one, a bucket. Keys come as AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY.
BUCKET = os.environ.get("COOMBE_STORE_BUCKET", "")
STORE = (
    {
        "BACKEND": "runs.object_store.ObjectStorage",
        "OPTIONS": {
            "bucket_name": BUCKET,
            "endpoint_url": os.environ.get("COOMBE_STORE_ENDPOINT") or None,
            "region_name": os.environ.get("COOMBE_STORE_REGION", "us-east-1"),
            "file_overwrite": True,
            "default_acl": None,
        },
    }
    if BUCKET
    else {"BACKEND": "runs.store.SyncedStorage", "OPTIONS": {"location": VAR / "store"}}
)
STORAGES = {
    "default": STORE,
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedStaticFilesStorage"},
}
WHITENOISE_KEEP_ONLY_HASHED_FILES = False
# The web build puts a hash of their content into these names: a browser never asks for them again.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/assets/[\w.-]+-[\w-]{8}\.\w+$"

SPOOL = VAR / "spool"
# Where devices may be: what a web page names is never opened unless it stands here.
DEVICE_PATHS = os.environ.get("COOMBE_DEVICE_PATHS", r"/dev/(tty(ACM|USB|S|AMA)\d+|serial/by-(id|path)/[\w.:+-]+)")
DEVICE_HOSTS = ["127.0.0.1", "localhost", *filter(None, os.environ.get("COOMBE_DEVICE_HOSTS", "").split(","))]
MAX_LOG_BYTES = int(os.environ.get("COOMBE_MAX_LOG_BYTES", 200 * 1024**2))
RESERVE_BYTES = int(os.environ.get("COOMBE_RESERVE_BYTES", 512 * 1024**2))  # imports leave this free for recording
MAX_ATTACHMENT_BYTES = 20 * 1024**2
MAX_SURVEY_BYTES = 50 * 1024**2
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024**2
SPOOL_FLOOR_BYTES = int(os.environ.get("COOMBE_SPOOL_FLOOR_BYTES", 128 * 1024**2))  # recording leaves this free
FILE_UPLOAD_TEMP_DIR = VAR / "uploads"  # emptied at start: what a killed process was receiving
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
FILE_UPLOAD_PERMISSIONS, FILE_UPLOAD_DIRECTORY_PERMISSIONS = 0o600, 0o700
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]

# Work that takes longer than a request runs in workers; "immediate" does it in the request, for tests and trials.
TASKS = {
    "default": {
        "BACKEND": {
            "database": "django_tasks_db.DatabaseBackend",
            "immediate": "django_tasks.backends.immediate.ImmediateBackend",
        }[os.environ.get("COOMBE_TASKS", "database")]
    }
}

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": [
        "accounts.tokens.TokenAuthentication",
        "rest_framework.authentication.SessionAuthentication",
    ],
    "DEFAULT_PERMISSION_CLASSES": ["history.permissions.MakersDelete"],
    "DEFAULT_PARSER_CLASSES": ["config.parsing.BoundedJSONParser"],
    "DEFAULT_RENDERER_CLASSES": ["config.rendering.FastJSONRenderer"],
    "DEFAULT_FILTER_BACKENDS": ["config.filtering.StrictFilterBackend"],
    "DEFAULT_PAGINATION_CLASS": "config.pagination.Pages",
    "DEFAULT_SCHEMA_CLASS": "config.schema.ProblemAutoSchema",
    "EXCEPTION_HANDLER": "config.errors.handled",
    "TEST_REQUEST_DEFAULT_FORMAT": "json",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Coombe",
    "VERSION": "1",
    "SCHEMA_PATH_PREFIX": "/api/v1",
    "SERVE_PERMISSIONS": ["rest_framework.permissions.IsAuthenticated"],
    "SWAGGER_UI_DIST": "SIDECAR",
    "SWAGGER_UI_FAVICON_HREF": "SIDECAR",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "ENUM_NAME_OVERRIDES": {
        "WebhookEvent": "webhooks.models.Event",
        "Role": "accounts.models.Role",
        "RunKind": "runs.models.RunKind",
        "PlanKind": "plans.models.PlanKind",
        "StepKind": "days.models.StepKind",
        "IntervalKind": "cars.models.IntervalKind",
        "DeviceKind": "recording.models.DeviceKind",
        "Connection": "recording.models.Connection",
        "ScheduledRunState": "days.models.ScheduledRunState",
        "DayState": "days.models.DayState",
        "Validity": "runs.models.Validity",
        "VoidReason": "runs.models.VoidReason",
        "Direction": "courses.models.Direction",
        "Surface": "courses.models.Surface",
        "Severity": "runs.models.Severity",
        "Clock": "runs.models.ClockName",
        "TireSeason": "cars.models.TireSeason",
        "DriveLayout": "cars.models.DriveLayout",
        "ChangeKind": "cars.models.ChangeKind",
        "Quantity": "comparisons.models.QuantityName",
        "StudyKind": "studies.models.StudyKind",
        "Better": "studies.models.Better",
        "Units": "reports.models.Units",
        "Paper": "reports.models.Paper",
    },
}

LOGGING = configuration(machines=os.environ.get("COOMBE_LOG") == "json")
