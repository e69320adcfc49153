"""Fonts made lighter and put in their places."""

import hashlib
import re
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import replace

import pikepdf

from lighten.codecs.flate import pack
from lighten.formats.pdf.fonts.font_use import FontUse
from lighten.formats.pdf.fonts.font_uses import FontUses, find_font_uses
from lighten.formats.pdf.fonts.merge_fonts import FontFile, MergedFont, merge_fonts
from lighten.formats.pdf.fonts.subset_font import FontJob, subset_font
from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.part_ids import part_object, part_object_id
from lighten.formats.pdf.objects.values import text_of, whole_number
from lighten.model.kinds import FontCoding
from lighten.model.plans import Action, Outcome, Plan
from lighten.model.weights import Part, WeightSheet
from lighten.parallel import SECONDS_A_FONT, Workers

__all__ = ["rewrite_fonts"]

_FILE_KEYS = ("/FontFile", "/FontFile2", "/FontFile3")
_IDENTITY = ("/Identity-H", "/Identity-V")
_SUBSET_TAG = re.compile(r"^/[A-Z]{6}\+")
_LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
# A font of the PDF, and the one below it that has the file where it is a composite one.
_Holder = tuple[pikepdf.Dictionary, pikepdf.Dictionary]
_NOT_SURE = "kept: the letters in use are not certain"
_MERGED = "only the letters in use stay, in one file for all {} that had letters of this font"
_NOT_LIGHTER = "kept: it has no letters to spare"


def rewrite_fonts(
    pdf: pikepdf.Pdf, sheet: WeightSheet, plan: Plan, workers: Workers
) -> dict[str, Outcome]:
    """Subset or drop fonts as planned; return the outcomes."""
    decisions = plan.by_part()
    fonts = [part for part in sheet.parts if part.font is not None]
    if all(decisions[part.id].action not in (Action.DROP, Action.RECODE) for part in fonts):
        return {}
    outcomes = {}
    holders = _holders(pdf)
    for part in fonts:
        if decisions[part.id].action is Action.DROP:
            _leave_out(holders.get(part_object_id(part.id), []))
            dropped = _outcome(part, Action.DROP, decisions[part.id].reason, 0)
            # The standard fonts are as wide everywhere, and nearly of one shape.
            is_other = part.font is not None and not part.font.is_standard
            outcomes[part.id] = replace(dropped, changes_looks=is_other)
    recoded_parts = [part for part in fonts if decisions[part.id].action is Action.RECODE]
    if not recoded_parts:
        return outcomes
    uses = find_font_uses(pdf)
    jobs = {
        part.id: _job(pdf, part, holders.get(part_object_id(part.id), []), uses)
        for part in recoded_parts
    }
    sure = [part for part in recoded_parts if jobs[part.id] is not None]
    made = dict(
        zip(
            [part.id for part in sure],
            workers.in_processes(
                _subset_and_pack,
                [jobs[part.id] for part in sure],
                seconds=SECONDS_A_FONT * len(sure),
            ),
            strict=True,
        )
    )
    for members, merged in _merge_alike(pdf, sure, jobs, made, workers):
        for part, left in _share(pdf, members, merged, holders):
            outcomes[part.id] = _outcome(part, Action.RECODE, _MERGED.format(len(members)), left)
    for part in sure:
        file = made[part.id]
        spared = _packed_bytes(pdf, part) - len(file[1]) if file else 0
        if part.id not in outcomes and file and spared > 0:
            _put(pdf, part, *file, holders[part_object_id(part.id)])
            reason = decisions[part.id].reason
            left = part.size_bytes - spared
            outcomes[part.id] = _outcome(part, Action.RECODE, reason, left)
    for part in recoded_parts:
        if part.id not in outcomes:
            reason = _NOT_LIGHTER if jobs[part.id] is not None else _NOT_SURE
            outcomes[part.id] = _outcome(part, Action.KEEP, reason, part.size_bytes)
    return outcomes


def _outcome(part: Part, action: Action, reason: str, after: int) -> Outcome:
    return Outcome(
        part_id=part.id,
        action=action,
        reason=reason,
        bytes_before=part.size_bytes,
        bytes_after=max(0, after),
    )


def _subset_and_pack(job: FontJob | None) -> tuple[bytes, bytes] | None:
    """The plain file and the packed one."""
    made = subset_font(job) if job is not None else None
    return None if made is None else (made, pack(made))


def _packed_bytes(pdf: pikepdf.Pdf, part: Part) -> int:
    stream = part_object(pdf, part.id)
    assert isinstance(stream, pikepdf.Stream)
    return len(stream.read_raw_bytes())


def _merge_alike(
    pdf: pikepdf.Pdf,
    parts: list[Part],
    jobs: Mapping[str, FontJob | None],
    made: Mapping[str, tuple[bytes, bytes] | None],
    workers: Workers,
) -> Iterator[tuple[list[Part], MergedFont]]:
    """Yield parts that hold glyphs of one font, known by its name, with the file for all of them.

    jobs: by part id, how each file is used. made: by part id, its subset, plain and packed.
    """
    alike: dict[tuple[str, bool], list[Part]] = defaultdict(list)
    for part in parts:
        assert part.font is not None
        if made[part.id] is not None or part.font.coding is not FontCoding.TYPE_1:
            alike[part.name, part.font.coding is FontCoding.TRUETYPE].append(part)
    groups = [group for group in alike.values() if len(group) > 1]
    files = [
        tuple(
            FontFile(data=_plain_file(pdf, part, made[part.id]), uses=job.uses)
            for part in group
            if (job := jobs[part.id]) is not None
        )
        for group in groups
    ]
    seconds = SECONDS_A_FONT * sum(map(len, groups))
    merging = workers.in_processes(merge_fonts, files, seconds=seconds)
    for group, found in zip(groups, merging, strict=True):
        for merged in found:
            yield [group[place] for place in merged.members], merged


def _plain_file(pdf: pikepdf.Pdf, part: Part, made: tuple[bytes, bytes] | None) -> bytes:
    stream = part_object(pdf, part.id)
    assert isinstance(stream, pikepdf.Stream)
    return made[0] if made is not None else stream.read_bytes()


def _share(
    pdf: pikepdf.Pdf,
    members: list[Part],
    merged: MergedFont,
    holders: Mapping[ObjectId, list[_Holder]],
) -> Iterator[tuple[Part, int]]:
    """Let the first member hold the file and all others point to it; what each weighs then."""
    first = members[0]
    before = _packed_bytes(pdf, first)
    _put(pdf, first, merged.plain, merged.packed, holders[part_object_id(first.id)])
    yield first, first.size_bytes - before + len(merged.packed)
    file = part_object(pdf, first.id)
    key = "/FontFile2" if "/Length1" in file else "/FontFile3"
    for part in members[1:]:
        sharing = holders[part_object_id(part.id)]
        _leave_out(sharing)
        for _, inner in sharing:
            _forget_letters(inner.FontDescriptor)
            inner.FontDescriptor[key] = file
        yield part, 0


def _holders(pdf: pikepdf.Pdf) -> dict[ObjectId, list[_Holder]]:
    """The fonts that use each font file."""
    holders: dict[ObjectId, list[_Holder]] = defaultdict(list)
    for value in pdf.objects:
        if not isinstance(value, pikepdf.Dictionary):
            continue
        below = value.get("/DescendantFonts")
        inner = below[0] if isinstance(below, pikepdf.Array) and len(below) else value
        is_font = value.get("/Type") == "/Font" or "/BaseFont" in value
        is_below = text_of(value.get("/Subtype", "")).startswith("/CIDFont")
        if is_font and not is_below and isinstance(inner, pikepdf.Dictionary):
            for file in _files(inner):
                holders[file.objgen].append((value, inner))
    return holders


def _files(font: pikepdf.Dictionary) -> Iterator[pikepdf.Stream]:
    descriptor = font.get("/FontDescriptor")
    if isinstance(descriptor, pikepdf.Dictionary):
        for key in _FILE_KEYS:
            file = descriptor.get(key)
            if isinstance(file, pikepdf.Stream):
                yield file


def _job(pdf: pikepdf.Pdf, part: Part, holders: list[_Holder], uses: FontUses) -> FontJob | None:
    """Return the job of a font file; None if some use of it is not understood."""
    stream = part_object(pdf, part.id)
    assert part.font is not None
    if not uses.is_complete or not holders or not isinstance(stream, pikepdf.Stream):
        return None
    uses_of_holders = [_use(outer, inner, uses) for outer, inner in holders]
    known_uses = tuple(use for use in uses_of_holders if use is not None)
    if len(known_uses) < len(uses_of_holders) or not any(use.codes for use in known_uses):
        return None
    try:
        return FontJob(data=stream.read_bytes(), coding=part.font.coding, uses=known_uses)
    except pikepdf.PdfError:
        return None


def _use(outer: pikepdf.Dictionary, inner: pikepdf.Dictionary, uses: FontUses) -> FontUse | None:
    if outer.objgen in uses.whole or not outer.is_indirect:
        return None
    shown = uses.shown.get(outer.objgen, set())
    if outer.get("/Subtype") != "/Type0":
        codes = frozenset(code for piece in shown for code in piece)
        return FontUse(codes=codes, names=_names(outer.get("/Encoding")))
    table = inner.get("/CIDToGIDMap")
    if text_of(outer.get("/Encoding")) not in _IDENTITY:
        return None
    return FontUse(
        codes=frozenset(
            int.from_bytes(piece[place : place + 2], "big")
            for piece in shown
            for place in range(0, len(piece), 2)
        ),
        names={},
        is_composite=True,
        glyph_of_cid=table.read_bytes() if isinstance(table, pikepdf.Stream) else None,
    )


def _names(encoding: pikepdf.Object | None) -> dict[int, str]:
    """Return the names of a /Differences array (ISO 32000-1, 9.6.6)."""
    differences = encoding.get("/Differences") if isinstance(encoding, pikepdf.Dictionary) else None
    names, code = {}, 0
    for difference in differences if isinstance(differences, pikepdf.Array) else ():
        if isinstance(difference, pikepdf.Name):
            names[code] = text_of(difference)[1:]
            code += 1
        else:
            code = whole_number(difference)
    return names


def _put(pdf: pikepdf.Pdf, part: Part, plain: bytes, packed: bytes, holders: list[_Holder]) -> None:
    stream = part_object(pdf, part.id)
    assert isinstance(stream, pikepdf.Stream) and part.font is not None
    stream.write(packed, filter=pikepdf.Name.FlateDecode)
    for key in ("/Length1", "/Length2", "/Length3"):
        if key in stream:
            del stream[key]
    if part.font.coding is FontCoding.TRUETYPE:
        stream.Length1 = len(plain)
    digest = hashlib.sha256(plain).digest()
    tag = "/" + "".join(_LETTERS[byte % 26] for byte in digest[:6]) + "+"
    for outer, inner in holders:
        descriptor = inner.FontDescriptor
        _forget_letters(descriptor)
        if part.font.coding is FontCoding.TYPE_1:
            stream.Subtype = pikepdf.Name.Type1C
            descriptor.FontFile3 = stream
            if "/FontFile" in descriptor:
                del descriptor["/FontFile"]
        for holder, key in ((outer, "/BaseFont"), (inner, "/BaseFont"), (descriptor, "/FontName")):
            name = text_of(holder.get(key, ""))
            if name and not _SUBSET_TAG.match(name):
                holder[key] = pikepdf.Name(tag + name[1:])


def _forget_letters(descriptor: pikepdf.Object) -> None:
    """Take off lists of letters that would not be true any more."""
    for key in ("/CharSet", "/CIDSet"):
        if key in descriptor:
            del descriptor[key]


def _leave_out(holders: list[_Holder]) -> None:
    for _, inner in holders:
        for key in _FILE_KEYS:
            if key in inner.FontDescriptor:
                del inner.FontDescriptor[key]
