"""A workbook opened, with what is known of it before anything is weighed."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from lighten.containers.opc import OpcPackage, open_package
from lighten.containers.opc.document import OpcDocument
from lighten.containers.opc.pictures import picture_showings, pictures_and_leftovers
from lighten.containers.pictures import Showing
from lighten.formats.xlsx.anchors import anchored_size
from lighten.formats.xlsx.cells.plain_xml import as_plain
from lighten.formats.xlsx.kinds import KIND_BY_MAIN_TYPE
from lighten.formats.xlsx.links import are_only_in_cells, link_members
from lighten.formats.xlsx.names import StrayName, stray_names
from lighten.formats.xlsx.sheets import Sheet, listed_sheets, read_sheets
from lighten.formats.xlsx.strings import StringList, read_strings
from lighten.formats.xlsx.styles import CellStyles, NamesKept, read_styles
from lighten.model.errors import UnreadableFileError
from lighten.model.kinds import ExtraKind
from lighten.model.source import Progress, Source, no_progress
from lighten.parallel import open_workers

__all__ = ["Workbook", "open_workbook", "plain_strings"]


@dataclass(frozen=True, kw_only=True)
class Workbook(OpcDocument):
    """names: hidden and broken ones. links: members that hold what was seen in other workbooks,
    where nothing but formulas of cells looks there. styles, strings: None where there are none.
    """

    sheets: tuple[Sheet, ...]
    styles_member: str
    strings_member: str
    styles: CellStyles | None
    strings: StringList | None
    names: tuple[StrayName, ...]
    links: frozenset[str]
    own_extras = MappingProxyType(
        {
            ExtraKind.CALCULATION_ORDER: lambda _, content_type: content_type.endswith(
                "spreadsheetml.calcChain+xml"
            ),
            ExtraKind.PIVOT_RECORDS: lambda _, content_type: content_type.endswith(
                "pivotCacheRecords+xml"
            ),
        }
    )

    @cached_property
    def by_member(self) -> dict[str, Sheet]:
        return {sheet.member: sheet for sheet in self.sheets}

    @cached_property
    def is_sound(self) -> bool:
        """Return whether every sheet could be read and uses only existing styles and strings.

        Logs of shared editing refer to strings by number as well.
        """
        if any(name.startswith("xl/revisions/") for name in self.package.archive.members):
            return False
        string_count = len(self.strings) if self.strings else 0
        style_count = len(self.styles) if self.styles else 1
        return all(
            sheet.found is not None
            and len(sheet.found.strings) <= string_count
            and len(sheet.found.styles) <= style_count
            and int(sheet.column_styles.max(initial=0)) < style_count
            for sheet in self.sheets
        )

    @cached_property
    def used_styles(self) -> NDArray[np.bool_]:
        """Return the numbers of styles in use, for a sound workbook."""
        used = np.zeros(len(self.styles) if self.styles else 1, np.bool_)
        for sheet in self.sheets:
            assert sheet.found is not None
            used[: len(sheet.found.styles)] |= sheet.found.styles
            used[sheet.column_styles] = True
        return used

    @cached_property
    def used_strings(self) -> NDArray[np.bool_]:
        """Return the numbers of strings in use, for a sound workbook."""
        used = np.zeros(len(self.strings) if self.strings else 0, np.bool_)
        for sheet in self.sheets:
            assert sheet.found is not None
            used[: len(sheet.found.strings)] |= sheet.found.strings
        return used

    @cached_property
    def names_kept(self) -> NamesKept:
        """Return styles and formats that no cell uses, but tables, pivots and macros may."""
        members = self.package.archive.members
        if self.package.has_macros:
            return NamesKept(styles=None, keeps_number_formats=True)
        styles: set[str] = set()
        for name in members:
            if self.package.content_type(name).endswith("spreadsheetml.table+xml"):
                for element in self.package.root(name).iter("*"):
                    styles |= {
                        value for key, value in element.attrib.items() if key.endswith("CellStyle")
                    }
        return NamesKept(
            styles=frozenset(styles),
            keeps_number_formats=any("pivot" in name.lower() for name in members),
        )

    def members_of(self, extra: ExtraKind) -> frozenset[str]:
        if extra is ExtraKind.OTHER_WORKBOOKS:
            # Only cells that are written anew can lose their formulas.
            return self.links if self.is_sound else frozenset()
        return super().members_of(extra)


def open_workbook(source: Source, progress: Progress = no_progress) -> Workbook:
    """Open a workbook. Raises: as `open_package`; UnreadableFileError if a sheet is cut short."""
    package = open_package(source)
    kind = KIND_BY_MAIN_TYPE.get(package.content_type(package.main))
    if kind is None:
        raise UnreadableFileError(
            f"{source.name}: does not say that it is a workbook of a kind that is known here. Open "
            "it in the program it came from and save it again, and try that file."
        )
    pictures, leftovers = pictures_and_leftovers(package, _showings(package))
    styles_member, strings_member = (_led_to(package, kind) for kind in ("styles", "sharedStrings"))
    with open_workers() as workers:
        sheets = read_sheets(package, workers, progress)
    links = link_members(package)
    return Workbook(
        package=package,
        media_type=kind.media_type,
        sheets=sheets,
        pictures=pictures,
        leftovers=leftovers,
        styles_member=styles_member,
        strings_member=strings_member,
        styles=read_styles(package.archive.content(styles_member)) if styles_member else None,
        strings=read_strings(plain_strings(package, strings_member), source.name)
        if strings_member
        else None,
        links=links
        if are_only_in_cells(package, (sheet.shell for sheet in sheets))
        else frozenset(),
        # Macros may ask for any of them.
        names=() if package.has_macros else stray_names(package, sheets),
    )


def plain_strings(package: OpcPackage, member: str) -> Iterator[bytes]:
    """The list of shared strings in the plain form."""
    head = next(package.archive.chunks(member), b"")[:4096]
    chunks = package.archive.chunks(member)
    is_plain = b"<sst" in head and b"\0" not in head and b"<!" not in head
    return chunks if is_plain else as_plain(chunks, f"{package.archive.shown_as}: {member} in it")


def _led_to(package: OpcPackage, kind: str) -> str:
    """Return the member of a relationship type of the workbook; "" if absent."""
    return next(
        (
            link.target
            for link in package.relationships.get(package.main, ())
            if link.kind == kind and link.target in package.archive.members
        ),
        "",
    )


def _showings(package: OpcPackage) -> Iterator[tuple[str, str, Showing]]:
    """Yield the position of each use of a picture, its member, and how it is shown."""
    titles = _titles_of_drawings(package)
    for member, reference, target in picture_showings(package):
        size = (reference.width_pt, reference.height_pt)
        if not all(size):
            size = anchored_size(reference) or size
        showing = Showing(
            width_pt=size[0],
            height_pt=size[1],
            visible=reference.visible,
            near=titles.get(member, ""),
            is_tiled=reference.is_tiled,
        )
        yield f"{member}#{reference.place}", target, showing


def _titles_of_drawings(package: OpcPackage) -> dict[str, str]:
    """Return the title of the sheet of each drawing."""
    titles: dict[str, str] = {}
    for title, _, member in listed_sheets(package):
        for link in package.relationships.get(member, ()):
            titles.setdefault(link.target, f"sheet {title}")
    return titles
