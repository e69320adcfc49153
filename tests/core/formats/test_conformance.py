"""Rules that every format must keep."""

import io
import re
import zipfile
from collections.abc import Callable
from contextlib import AbstractContextManager
from functools import partial
from pathlib import Path
from typing import Any

import docx
import numpy as np
import openpyxl
import pptx
import pypdf
from lxml import etree
from PIL import Image, ImageSequence
from python_calamine import CalamineWorkbook

from lighten import FORMATS, PartKind, Source, make_copy, plan, preset_named, weigh
from lighten.contract import ConvertingFormat, Format, PagedReading, PicturesReading
from lighten.model.errors import UnreadableFileError
from lighten.model.plans import Action, Decision, Plan
from lighten.parallel import open_workers
from tests.builders import FolderCase
from tests.core.formats.docx import samples as docx_samples
from tests.core.formats.odp import samples as odp_samples
from tests.core.formats.ods import samples as ods_samples
from tests.core.formats.odt import samples as odt_samples
from tests.core.formats.package_samples import rewritten
from tests.core.formats.pdf.samples import report
from tests.core.formats.picture.samples import camera_photo
from tests.core.formats.pptx import samples as pptx_samples
from tests.core.formats.tiff.samples import scanned
from tests.core.formats.xlsx import samples as xlsx_samples

SAMPLES: dict[str, Callable[[Path], Source]] = {
    "pdf": report,
    "picture": camera_photo,
    "tiff": scanned,
    "docx": docx_samples.handbook,
    "odt": odt_samples.handbook,
    "pptx": pptx_samples.talk,
    "odp": odp_samples.talk,
    "xlsx": xlsx_samples.ledger,
    "ods": ods_samples.ledger,
}


def _all_frames(path: Path) -> list[bytes]:
    with Image.open(path) as image:
        return [frame.tobytes() for frame in ImageSequence.Iterator(image)]


# Readers of others: what they raise fails the test.
READERS: dict[str, Callable[[Path], Any]] = {
    "pdf": lambda path: [page.extract_text() for page in pypdf.PdfReader(path).pages],
    "picture": lambda path: Image.open(path).load(),
    "tiff": _all_frames,
    "docx": lambda path: [paragraph.text for paragraph in docx.Document(str(path)).paragraphs],
    "odt": lambda path: etree.fromstring(zipfile.ZipFile(path).read("content.xml")),
    "pptx": lambda path: [len(slide.shapes) for slide in pptx.Presentation(str(path)).slides],
    "odp": lambda path: etree.fromstring(zipfile.ZipFile(path).read("content.xml")),
    "xlsx": lambda path: openpyxl.load_workbook(io.BytesIO(path.read_bytes())),
    "ods": lambda path: CalamineWorkbook.from_filelike(io.BytesIO(path.read_bytes())),
}


def everything_kept(source: Source) -> Plan:
    """A plan that keeps each part as it is."""
    sheet = weigh(source)
    return Plan(
        preset="none",
        size_bytes=sheet.size_bytes,
        decisions=tuple(
            Decision(part_id=part.id, action=Action.KEEP, reason="") for part in sheet.parts
        ),
    )


def seen(reading: Any, source: Source) -> list[Any]:
    """All the pixels and text that a reading shows."""
    if isinstance(reading, PagedReading):
        views = [reading.view(page, 50) for page in range(1, len(reading.page_sizes) + 1)]
        return [part for view in views for part in (view.pixels, view.text)]
    assert isinstance(reading, PicturesReading)
    return [reading.picture(part.id) for part in weigh(source).parts if part.picture]


class FormatConformance(FolderCase):
    """Those that become another format are looked at in `tests.core.containers.test_old_office`."""

    FORMATS = [format_ for format_ in FORMATS if not isinstance(format_, ConvertingFormat)]

    def each(self) -> list[tuple[Format, Source]]:
        return [
            (format_, SAMPLES[format_.name](self.folder / f"{format_.name}-sample"))
            for format_ in self.FORMATS
        ]

    def of(self, format_: Format) -> AbstractContextManager[None]:
        return self.subTest(format=format_.name)

    def test_format_conformance_has_a_sample_here(self) -> None:
        self.assertEqual(
            {format_.name for format_ in self.FORMATS}, SAMPLES.keys() & READERS.keys()
        )

    def test_format_conformance_recognises_its_own_sample_and_no_other(self) -> None:
        for _, source in self.each():
            recognising = [format_.name for format_ in FORMATS if format_.recognises(source)]
            self.assertEqual(recognising, [weigh(source).format])

    def test_parts_add_up_and_their_ids_differ(self) -> None:
        for format_, source in self.each():
            with self.of(format_):
                sheet = weigh(source)
                self.assertEqual(
                    sum(part.size_bytes for part in sheet.parts), source.path.stat().st_size
                )
                self.assertEqual(len({part.id for part in sheet.parts}), len(sheet.parts))
                self.assertEqual(sheet, weigh(source))

    def test_format_conformance_offers_what_its_sheets_have(self) -> None:
        for format_, source in self.each():
            with self.of(format_):
                sheet = weigh(source)
                extras = {part.extra for part in sheet.parts if part.extra}
                self.assertLessEqual(extras, set(format_.offers.extras))
                # Pages of pictures are proved as pictures.
                if format_.offers.has_pages:
                    self.assertIsNotNone(sheet.pages)
                self.assertEqual(
                    format_.offers.kind_of(sheet.media_type).media_type, sheet.media_type
                )

    def test_a_plan_that_keeps_all_keeps_every_pixel_and_text(self) -> None:
        for format_, source in self.each():
            with self.of(format_):
                out, kept = self.folder / f"{format_.name}-kept", everything_kept(source)
                with format_.edit(source, weigh(source)) as editing, open_workers() as workers:
                    editing.leave_out(kept)
                    editing.apply_rest(kept, workers)
                    editing.save(kept, out)
                copy = Source(path=out)
                with format_.read(source) as before, format_.read(copy) as after:
                    self.assertEqual(before.preserved_features(), after.preserved_features())
                    for mine, theirs in zip(seen(before, source), seen(after, copy), strict=True):
                        np.testing.assert_array_equal(mine, theirs)

    def test_the_same_plan_gives_the_same_bytes_and_touches_no_original(self) -> None:
        for format_, source in self.each():
            with self.of(format_):
                before, sheet = source.path.read_bytes(), weigh(source)
                chosen = plan(sheet, preset_named("reading-desk"))
                copies = [
                    make_copy(source, sheet, chosen, self.folder / f"{format_.name}-{number}")
                    for number in range(2)
                ]
                contents = [copy.path.read_bytes() for copy in copies if copy.path]
                self.assertEqual(contents[0], contents[1])
                self.assertEqual(source.path.read_bytes(), before)

    def test_a_copy_is_lighter_and_opens_in_an_independent_reader(self) -> None:
        for format_, source in self.each():
            with self.of(format_):
                sheet, out = weigh(source), self.folder / f"{format_.name}-light"
                copy = make_copy(source, sheet, plan(sheet, preset_named("post")), out)
                self.assertLess(copy.bytes_after, copy.bytes_before)
                self.assertEqual(
                    sum(outcome.bytes_after for outcome in copy.outcomes), copy.bytes_after
                )
                READERS[format_.name](out)

    def test_damage_and_nonsense_are_unreadable(self) -> None:
        for format_, source in self.each():
            whole = source.path.read_bytes()
            for content in (whole[:300], whole[:40] + b"\x55" * 400):
                with self.of(format_):
                    path = self.folder / "damaged"
                    path.write_bytes(content)
                    with self.assertRaises(UnreadableFileError):
                        format_.weigh(Source(path=path), lambda _share: None)


class PackagesWithMacros(FolderCase):
    """Content types of main parts with macros: [MS-OFFMACRO2] 2.2, from memory."""

    def test_packages_with_macros_call_their_main_part_as_those_without(self) -> None:
        types = {
            "docx": b"application/vnd.ms-word.document",
            "pptx": b"application/vnd.ms-powerpoint.presentation",
            "xlsx": b"application/vnd.ms-excel.sheet",
        }
        for name, kind in types.items():
            with self.subTest(format=name):
                plain = SAMPLES[name](self.folder / name)
                titles = self.titles(plain)
                rewritten(plain, {"[Content_Types].xml": partial(_with_macros, kind)})
                self.assertEqual(self.titles(plain), titles)

    def titles(self, source: Source) -> set[tuple[str, PartKind]]:
        return {(part.name, part.kind) for part in weigh(source).parts}


def _with_macros(kind: bytes, types: bytes) -> bytes:
    return re.sub(rb"application/vnd[^\"]*\.main\+xml", kind + b".macroEnabled.main+xml", types)
