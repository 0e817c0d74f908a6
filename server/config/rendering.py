"""How answers are written."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import orjson
from rest_framework.renderers import JSONRenderer
from rest_framework.utils.encoders import JSONEncoder

OPTIONS = orjson.OPT_UTC_Z | orjson.OPT_NON_STR_KEYS


class FastJSONRenderer(JSONRenderer):
    """JSON, written by orjson: answers have thousands of numbers."""

    def render(
        self, data: Any, accepted_media_type: str | None = None, renderer_context: Mapping[str, Any] | None = None
    ) -> bytes:
        """The answer's body; none where there is nothing to say."""
        return b"" if data is None else orjson.dumps(data, default=JSONEncoder().default, option=OPTIONS)
