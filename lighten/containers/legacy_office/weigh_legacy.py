"""Weights of a legacy file: those of its converted form, and the rest that its own form takes."""

from dataclasses import replace

from lighten.containers.legacy_office.legacy_kind import LegacyKind
from lighten.model.kinds import PartKind
from lighten.model.source import Source
from lighten.model.weights import Part, WeightSheet

__all__ = ["sheet_for_legacy_file"]


def sheet_for_legacy_file(sheet: WeightSheet, source: Source, kind: LegacyKind) -> WeightSheet:
    """The sheet of the open form as that of the old file.

    Where the open form is heavier, all of the file is one part, and nothing in it can be chosen.
    """
    size_bytes = source.path.stat().st_size
    ending = kind.becomes.offers.kind_of(sheet.media_type).suffixes[0]
    more = size_bytes - sheet.size_bytes
    if more >= 0:
        parts = (
            *sheet.parts,
            Part(
                id="old-form",
                kind=PartKind.LEGACY_FORM,
                size_bytes=more,
                name=f"What the old form takes more than {ending}",
            ),
        )
        remark = f"becomes {ending}; the original stays as it is"
    else:
        whole = Part(
            id="structure",
            kind=PartKind.STRUCTURE,
            size_bytes=size_bytes,
            name=f"All of the {kind.kind.title}",
        )
        parts = (whole,)
        remark = f"weighs more as {ending} ({sheet.size_bytes:,} bytes): only packed tighter"
    return replace(
        sheet,
        format=kind.name,
        media_type=kind.kind.media_type,
        size_bytes=size_bytes,
        parts=parts,
        remarks=(*sheet.remarks, remark),
    )
