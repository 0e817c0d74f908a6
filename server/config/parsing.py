"""Request bodies that are JSON, with an end to how deep and how large they may be."""

from __future__ import annotations

from typing import IO, Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser


class BoundedJSONParser(JSONParser):
    """JSON whose nesting the interpreter can follow."""

    def parse(self, stream: IO[Any], media_type: str | None = None, parser_context: Any = None) -> Any:
        """Raises ParseError where it is no JSON, or nested without end."""
        try:
            return super().parse(stream, media_type, parser_context)
        except RecursionError:
            raise ParseError("The JSON is nested too deeply.") from None
