"""An old file brought to the open form of its kind by the office suite, once, and kept."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.containers.legacy_office.legacy_kind import LegacyKind
from lighten.containers.legacy_office.streams import Within, within
from lighten.containers.opc.document import is_film_or_sound
from lighten.containers.opc.package import open_package
from lighten.containers.open_forms import kept_form
from lighten.model.errors import UnreadableFileError, UnsupportedFileError
from lighten.model.source import Source
from lighten.office_suite import OfficeSuite

__all__ = ["convert_with_office"]

_EMBEDDINGS = "/embeddings/"


def convert_with_office(
    source: Source, kind: LegacyKind, suite: OfficeSuite | None = None
) -> Source:
    """Convert a legacy file to the current format; the result is kept beside a stored source.

    Raises: UnsupportedFileError where there is no office suite, or macros would be lost;
    UnreadableFileError where the suite cannot open the file.
    """
    opened = kept_form(
        source, kind.ending, lambda path: _make(source, kind, path, suite or OfficeSuite())
    )
    return replace(source, path=opened, password="", shown_as=source.name)


def _make(source: Source, kind: LegacyKind, opened: Path, suite: OfficeSuite) -> None:
    if not suite.available():
        raise UnsupportedFileError(
            f"{source.name}: is in a form of before 2007 ({kind.kind.suffixes[0]}), and no office "
            f"suite is installed here that could bring it to {kind.ending}. Open it in an office "
            f"program, save it as {kind.ending}, and try that file."
        )
    held = within(source)
    target = kind.target_with_macros if held.has_macros else kind.target
    with TemporaryDirectory(dir=opened.parent, prefix=".bringing-") as folder:
        documents = [(source.path, kind.kind.suffixes[0])]
        made = suite.convert(documents, target, Path(folder))
        if made is None:
            raise UnreadableFileError(
                f"{source.name}: is in a form of before 2007 ({kind.kind.suffixes[0]}) and cannot "
                "be opened; it may be damaged, or locked with a password. Open it in the program "
                f"it came from, save it as {kind.ending}, and try that file."
            )
        if lost := ", ".join(_lost(held, replace(source, path=made[0]))):
            raise UnsupportedFileError(
                f"{source.name}: would lose {lost} on the way to {kind.ending}. Open it in the "
                "program it came from, save it in its new form, and try that file."
            )
        made[0].replace(opened)


def _lost(held: Within, opened: Source) -> Iterator[str]:
    """Describe what the converted form lacks, in words."""
    package = open_package(opened)
    films = [name for name in package.archive.members if is_film_or_sound(package, name)]
    documents = [name for name in package.archive.members if _EMBEDDINGS in name]
    if held.has_macros and not package.has_macros:
        yield "its macros"
    if held.documents > len(documents):
        yield f"{held.documents - len(documents)} of {held.documents} documents inside"
    if held.films_and_sounds > len(films):
        yield f"{held.films_and_sounds - len(films)} of {held.films_and_sounds} films and sounds"
