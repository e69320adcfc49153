"""The one kind of file that the format reads and writes."""

from lighten.contract import FileKind

__all__ = ["PDF"]

PDF = FileKind(title="PDF", media_type="application/pdf", suffixes=(".pdf",))
