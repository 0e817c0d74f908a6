"""The ASGI application."""

import os
import warnings

import django

from config.garbage import look_seldom

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
# WhiteNoise reads its files synchronously; Django warns of that with every file.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
django.setup(set_prefix=False)

from config.guard import Guard  # noqa: E402 - needs the apps, which the line above has loaded
from config.handling import ThreadedHandler  # noqa: E402

application = Guard(ThreadedHandler())  # type: ignore[arg-type]
look_seldom()
