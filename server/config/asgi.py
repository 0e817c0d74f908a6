"""The ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

from config.garbage import look_seldom
from config.guard import Guard

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
# WhiteNoise reads its files synchronously; Django warns of that with every file.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")
application = Guard(get_asgi_application())  # type: ignore[arg-type]
look_seldom()
