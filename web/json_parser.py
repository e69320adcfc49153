"""JSON that comes in: no deeper, longer or stranger than anything that is asked for."""

import io
from collections.abc import Mapping
from typing import IO, Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser

__all__ = ["CarefulJSONParser"]

_MOST_BYTES, _DEEPEST = 2_000_000, 24


class CarefulJSONParser(JSONParser):
    """Also refuses what no text can hold, and numbers that are none."""

    def parse(
        self,
        stream: IO[bytes],
        media_type: str | None = None,
        parser_context: Mapping[str, Any] | None = None,
    ) -> Any:
        request = (parser_context or {}).get("request")
        if request is not None and int(request.META.get("CONTENT_LENGTH") or 0) > _MOST_BYTES:
            raise ParseError("That is more JSON than anything here takes.")
        content = stream.read()
        try:
            content.decode()  # the reader of streams passes over half a character at the end
            parsed = super().parse(io.BytesIO(content), media_type, parser_context)
        except (RecursionError, UnicodeDecodeError) as error:
            raise ParseError("That JSON cannot be read.") from error
        _check(parsed, "", 0)
        return parsed


def _check(value: Any, where: str, depth: int) -> None:
    """Raises: ParseError, with the place."""
    if depth > _DEEPEST:
        raise ParseError(f"{where}: is nested too deeply.")
    if isinstance(value, str):
        try:
            value.encode()
        except UnicodeEncodeError as error:
            raise ParseError(f"{where or 'the text'}: holds half a character.") from error
    elif isinstance(value, dict):
        for name, inner in value.items():
            _check(name, where, depth + 1)
            _check(inner, name[:40], depth + 1)
    elif isinstance(value, list):
        for inner in value:
            _check(inner, where, depth + 1)
