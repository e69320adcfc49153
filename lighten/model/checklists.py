"""Rules of a portal or an archive beside weight, and the check of a file against them.

The form as JSON is ours and open: {"schema": "green-satchel-limit", "version": 1, "title",
"size_bytes", "carrier", "checklist": {"endings", "most_pages", "needs_pdf_a", "names":
{"no_spaces", "ascii_only", "most_letters"}}}. Keys that are left out have their usual values.
"""

import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import PurePath
from typing import Any

from lighten.model.errors import BadPresetError
from lighten.model.json_converter import JsonMistakeError, from_json, to_json
from lighten.model.limits import Carrier, Limit

__all__ = [
    "Check",
    "Checklist",
    "NameRule",
    "NamedLimit",
    "check_file",
    "checklist_from_json",
    "checklist_to_json",
    "limit_from_json",
    "limit_to_json",
    "pages_text",
]

SCHEMA, VERSION = "green-satchel-limit", 1
_FEWEST_LETTERS, _LONGEST_TITLE = 12, 60
# Letters that lose nothing but their marks are taken apart by Unicode; these are not.
_SPELT_OUT = str.maketrans(
    {"ß": "ss", "æ": "ae", "Æ": "Ae", "ø": "o", "Ø": "O", "œ": "oe", "Œ": "Oe", "ł": "l", "Ł": "L"}
    | {"đ": "d", "Đ": "D", "þ": "th", "Þ": "Th", "–": "-", "—": "-", "’": "", "‘": ""}
)

Json = dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class NameRule:
    """Rule for file names. Copies are renamed to meet it; originals keep their names.

    most_letters: of the whole name with its ending.
    """

    no_spaces: bool = False
    ascii_only: bool = False
    most_letters: int | None = None

    def __post_init__(self) -> None:
        if self.most_letters is not None and not _FEWEST_LETTERS <= self.most_letters <= 255:
            raise ValueError(f"most_letters is from {_FEWEST_LETTERS} to 255")

    def apply(self, name: str) -> str:
        """The name as near to itself as the rule lets it be. Applied again it stays."""
        if self.ascii_only:
            taken_apart = unicodedata.normalize("NFKD", name.translate(_SPELT_OUT))
            name = re.sub(r"[^ -~]", "", taken_apart)
        if self.no_spaces:
            name = re.sub(r"\s+", "-", name.strip())
            name = re.sub(r",-|-{2,}", "-", name)
        if self.most_letters is not None and len(name) > self.most_letters:
            ending = PurePath(name).suffix[: self.most_letters - 1]
            name = name[: self.most_letters - len(ending)].rstrip(" -.") + ending
        # Nothing may be left of a name in another script.
        stem, ending = PurePath(name).stem, PurePath(name).suffix
        return name if stem.strip(" -.") and not name.startswith(".") else f"file{ending or name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Checklist:
    """endings: of files that are taken, in small letters with the dot; none for all."""

    endings: tuple[str, ...] = ()
    most_pages: int | None = None
    needs_pdf_a: bool = False
    names: NameRule = field(default_factory=NameRule)

    def __post_init__(self) -> None:
        if any(not re.fullmatch(r"\.[a-z0-9]{1,10}", ending) for ending in self.endings):
            raise ValueError("endings are like .pdf, in small letters")
        if self.most_pages is not None and not 1 <= self.most_pages <= 100_000:
            raise ValueError("most_pages is from 1 to 100000")


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedLimit:
    """A limit as it is met somewhere, with what else is asked there."""

    title: str
    limit: Limit
    checklist: Checklist = field(default_factory=Checklist)


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One point of a checklist. text: what is asked; found: what the file has instead, or ""."""

    text: str
    is_met: bool
    found: str = ""


def check_file(
    checklist: Checklist, name: str, *, pages: int | None, standard: str
) -> tuple[Check, ...]:
    """Every point that the checklist asks for. pages: None of what has none; standard: as
    `Rules.standard`.
    """
    return tuple(_checks(checklist, name, pages, standard))


def pages_text(count: int) -> str:
    """Return a number of pages in words."""
    return "1 page" if count == 1 else f"{count} pages"


def _checks(checklist: Checklist, name: str, pages: int | None, standard: str) -> Iterator[Check]:
    if checklist.endings:
        ending = PurePath(name).suffix.lower()
        kinds = ", ".join(ending[1:] for ending in checklist.endings)
        yield _check(f"a file of kind {kinds}", ending in checklist.endings, ending[1:] or "none")
    if checklist.most_pages is not None:
        is_met = pages is None or pages <= checklist.most_pages
        yield _check(f"at most {pages_text(checklist.most_pages)}", is_met, pages_text(pages or 0))
    if checklist.needs_pdf_a:
        yield _check("PDF/A", standard.startswith("PDF/A"), standard or "no archive level")
    ruled = checklist.names.apply(name)
    if checklist.names != NameRule():
        yield _check("a name by the rule", ruled == name, name)


def _check(text: str, is_met: bool, found: str) -> Check:  # of one line each
    return Check(text=text, is_met=is_met, found="" if is_met else found)


def checklist_to_json(checklist: Checklist) -> Json:
    stored: Json = to_json(checklist)
    return stored


def checklist_from_json(stored: Any) -> Checklist:
    """Read a checklist. Raises: BadPresetError with the path of the first mistake."""
    try:
        return from_json(stored, Checklist, "checklist")
    except JsonMistakeError as error:
        raise BadPresetError(f"{error}.") from error


def limit_to_json(named: NamedLimit) -> Json:
    return {
        "schema": SCHEMA,
        "version": VERSION,
        "title": named.title,
        "size_bytes": named.limit.size_bytes,
        "carrier": str(named.limit.carrier),
        "checklist": checklist_to_json(named.checklist),
    }


def limit_from_json(stored: Any) -> NamedLimit:
    """Read a limit. Raises: BadPresetError with the path of the first mistake."""
    if not isinstance(stored, dict) or stored.get("schema") != SCHEMA:
        raise BadPresetError(f'This is no file of a limit: its schema is not "{SCHEMA}".')
    if stored.get("version") != VERSION:
        raise BadPresetError(f"version: {stored.get('version')!r} is not known here.")
    title, size = stored.get("title"), stored.get("size_bytes")
    if not isinstance(title, str) or not 1 <= len(title.strip()) <= _LONGEST_TITLE:
        raise BadPresetError(f"title: is a text of 1 to {_LONGEST_TITLE} letters.")
    if not isinstance(size, int) or isinstance(size, bool) or size <= 0:
        raise BadPresetError("size_bytes: is a whole number above zero.")
    if stored.get("carrier", "file") not in set(Carrier):
        raise BadPresetError(f"carrier: is one of {', '.join(Carrier)}.")
    return NamedLimit(
        title=title.strip(),
        limit=Limit(size_bytes=size, carrier=Carrier(stored.get("carrier", "file"))),
        checklist=checklist_from_json(stored.get("checklist", {})),
    )
