"""Pictures of a PDF: their weights and classes."""

from collections.abc import Iterator
from dataclasses import replace
from typing import cast

import pikepdf

from lighten.formats.pdf.objects.classify_objects import Belongings
from lighten.formats.pdf.objects.object_spans import FileSpans, ObjectId
from lighten.formats.pdf.objects.open_file import archive_standard
from lighten.formats.pdf.objects.page_boxes import media_box, user_unit
from lighten.formats.pdf.objects.part_ids import part_id
from lighten.formats.pdf.objects.values import whole_number
from lighten.formats.pdf.pages.placements import PictureUses
from lighten.formats.pdf.pictures.colour_spaces import read_colour
from lighten.formats.pdf.pictures.read_pictures import (
    bits_of,
    coding_of,
    is_lossy,
    may_repack,
    read_picture,
    why_untouchable,
)
from lighten.model.kinds import PartKind, PictureClass
from lighten.model.source import Progress
from lighten.model.weights import Part, PictureFacts, Placement
from lighten.parallel import open_workers
from lighten.pictures.recoding.look import LookJob, look_at

__all__ = ["weigh_pictures"]

_COVERS_A_PAGE = 0.8
_WITHOUT_COLOUR = ("DeviceGray", "CalGray")


def weigh_pictures(
    pdf: pikepdf.Pdf,
    spans: FileSpans,
    belongings: Belongings,
    uses: PictureUses,
    progress: Progress,
    *,
    inline: set[ObjectId],
) -> Iterator[Part]:
    """Return a part for each picture, with its facts. inline: those lifted out of content."""
    pages = _page_areas(pdf)
    has_masks = not archive_standard(pdf).startswith("PDF/A-1")
    ids = [object_id for object_id in belongings.pictures if object_id in spans.size]
    classes = _classes(pdf, ids, uses, pages, progress)
    for object_id, picture_class in zip(ids, classes, strict=True):
        picture = cast(pikepdf.Stream, pdf.get_object(object_id))
        masks = belongings.pictures[object_id]
        facts = _facts(picture, picture_class, uses, object_id, has_masks=has_masks)
        if object_id in inline:
            facts = replace(facts, is_inline=True)
        yield Part(
            id=part_id(PartKind.PICTURE, object_id),
            kind=PartKind.PICTURE,
            size_bytes=spans.size[object_id] + sum(spans.size.get(mask, 0) for mask in masks),
            name=f"Picture {object_id[0]}",
            picture=facts,
        )


def _facts(
    picture: pikepdf.Stream,
    picture_class: PictureClass,
    uses: PictureUses,
    object_id: ObjectId,
    *,
    has_masks: bool,
) -> PictureFacts:
    """Describe a picture. has_masks: the archive level allows the masks that a colour key would
    become.
    """
    placements = tuple(uses.placements.get(object_id, ()))
    untouchable = why_untouchable(picture)
    colour = read_colour(picture.get("/ColorSpace"))
    if _mask_kind(picture) == "colour-key" and not has_masks:
        untouchable = "kept: PDF/A-1 has no mask for its see-through colour"
    return PictureFacts(
        width_px=whole_number(picture.get("/Width")),
        height_px=whole_number(picture.get("/Height")),
        coding=" ".join(name.removesuffix("Decode") for name in coding_of(picture)) or "raw",
        colour=colour.name,
        bits=bits_of(picture),
        is_lossy=is_lossy(picture),
        may_repack=may_repack(picture),
        has_colour=colour.name not in _WITHOUT_COLOUR,
        has_palette=colour.palette is not None,
        mask=_mask_kind(picture),
        picture_class=picture_class,
        placements=placements,
        visible=uses.visible.get(object_id, (0.0, 0.0, 1.0, 1.0)),
        untouchable=untouchable,
    )


def _mask_kind(picture: pikepdf.Stream) -> str:
    if "/SMask" in picture or whole_number(picture.get("/SMaskInData")):
        return "soft"
    if "/Mask" in picture:
        return "colour-key" if isinstance(picture.Mask, pikepdf.Array) else "explicit"
    return ""


def _classes(
    pdf: pikepdf.Pdf,
    ids: list[ObjectId],
    uses: PictureUses,
    pages: list[float],
    progress: Progress,
) -> Iterator[PictureClass]:
    """The class of each picture, in the order of `ids`."""

    def jobs() -> Iterator[LookJob | PictureClass]:
        for done, object_id in enumerate(ids):
            progress(0.3 + 0.7 * done / len(ids))
            picture = cast(pikepdf.Stream, pdf.get_object(object_id))
            is_page = _is_page(uses.placements.get(object_id, []), pages)
            class_by_facts = _class_by_facts(picture, is_page=is_page)
            yield class_by_facts or LookJob(picture=read_picture(picture), is_page=is_page)

    with open_workers() as workers:
        yield from workers.in_threads(_look_if_needed, jobs())


def _look_if_needed(job: LookJob | PictureClass) -> PictureClass:
    if isinstance(job, PictureClass):
        return job
    return look_at(job) or PictureClass.PHOTO


def _class_by_facts(picture: pikepdf.Stream, *, is_page: bool) -> PictureClass | None:
    """The class of pictures whose pixels need not, or cannot, be looked at."""
    if picture.get("/ImageMask", False):
        return PictureClass.MASK
    if bits_of(picture) == 1 and read_colour(picture.get("/ColorSpace")).colours <= 1:
        return PictureClass.BITONAL
    if why_untouchable(picture):
        return PictureClass.PAGE_SCAN if is_page else PictureClass.PHOTO
    return None


def _page_areas(pdf: pikepdf.Pdf) -> list[float]:
    """Return the area of each page's media box, in square points."""
    areas = []
    for page in pdf.pages:
        left, low, right, high = media_box(page)
        areas.append((right - left) * (high - low) * user_unit(page) ** 2)
    return areas


def _is_page(placements: list[Placement], areas: list[float]) -> bool:
    """Return True for a picture of which so much is in sight that it is the page.

    areas: of pages, in square points.
    """
    return any(
        placement.visible_area_pt >= _COVERS_A_PAGE * areas[placement.page - 1]
        for placement in placements
        if placement.page is not None
    )
