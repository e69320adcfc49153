"""The words of a document as the office suite reads them, whatever kind of file holds them."""

import zipfile
from collections.abc import Mapping
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from lxml import etree

from lighten.model.errors import UnreadableFileError
from lighten.office_suite import OfficeSuite

__all__ = ["words_by_suite"]

_NOT_READ = "The office suite cannot read it a second time."
# Where a word ends: at these, and nowhere else between letters (OpenDocument 1.3, 5 and 6).
_BREAKS = frozenset({"p", "h", "s", "tab", "line-break"})
_BODY = "body"


def words_by_suite(path: Path, target: str) -> Mapping[str, tuple[str, ...]]:
    """Return the words in the order of the document. target: the OpenDocument extension to convert
    to.

    Raises: UnreadableFileError.
    """
    with TemporaryDirectory(prefix=".words-") as folder:
        made = OfficeSuite().convert([(path, "")], target, Path(folder))
        if made is None:
            raise UnreadableFileError(_NOT_READ)
        with zipfile.ZipFile(made[0]) as members, members.open("content.xml") as content:
            # Only letters are taken up, however large the tree would be.
            parser = etree.XMLParser(target=_Text(), resolve_entities=False, huge_tree=True)
            text: Any = etree.parse(content, parser)
    return {"words as the office suite reads them": tuple(text.split())}


class _Text:
    """Collector of the letters of the body while a parser runs."""

    def __init__(self) -> None:
        self._said: list[str] = []
        self._is_in_body = False

    def start(self, tag: Any, _attributes: Any) -> None:
        self._is_in_body |= _local(tag) == _BODY
        self._break(tag)

    def end(self, tag: Any) -> None:
        self._break(tag)

    def data(self, data: Any) -> None:
        if self._is_in_body:
            self._said.append(data)

    def comment(self, _text: Any) -> None:
        """Ignore comments, which no reader sees."""

    def close(self) -> str:
        return "".join(self._said)

    def _break(self, tag: str) -> None:
        if _local(tag) in _BREAKS:
            self._said.append(" ")


def _local(tag: str) -> str:
    return tag.rpartition("}")[2]
