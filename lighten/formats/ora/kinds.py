"""Kind of file of a layered drawing."""

from lighten.contract import FileKind

__all__ = ["ORA"]

ORA = FileKind(title="layered drawing", media_type="image/openraster", suffixes=(".ora",))
