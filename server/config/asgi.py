"""The ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

from config.garbage import look_seldom

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
# WhiteNoise reads its files synchronously; Django warns of that with every file.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
_django = get_asgi_application()

from config.guard import Guard  # noqa: E402 - needs the apps, which the line above has loaded

application = Guard(_django)  # type: ignore[arg-type]
look_seldom()
