"""Changes to a package of ISO/IEC 26300: manifest, frames and clips go along."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from lighten.containers.changes import Changes, Rewrite, chain_rewrites
from lighten.containers.odf.frames import Lengths, picture_frames, target_of, write_clip
from lighten.containers.odf.package import MANIFEST, MIMETYPE, OdfPackage
from lighten.containers.package_editing import PackageEditing
from lighten.containers.pictures import member_picture
from lighten.containers.pictures.member_file import natural_size_pt
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.model.plans import Plan
from lighten.pictures.recoding.recode_job import Cut

__all__ = ["NewSize", "OdfEditing", "rewrite_frames"]

_WHOLE = (0.0, 0.0, 1.0, 1.0)
_HREF = "{http://www.w3.org/1999/xlink}href"


@dataclass(frozen=True, slots=True, kw_only=True)
class NewSize:
    """Size of a re-encoded picture by its own resolution, before and after, in points; and the
    region kept.
    """

    before_pt: tuple[float, float]
    after_pt: tuple[float, float]
    cut: Cut


class OdfEditing(PackageEditing):
    """See `PackageEditing`; formats rewrite the members that hold what people wrote."""

    # Clips are lengths at the picture's own size.
    needs_dots = True
    package: OdfPackage

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        """Return the format's rewrites of members of its own."""
        raise NotImplementedError

    def rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        changes = self.changes
        gone = changes.removed | changes.merged.keys()
        moved = {name: changes.name_now(name) for name in (*changes.merged, *changes.renamed)}
        stories = dict(self.story_rewrites(plan))
        sizes = self._new_sizes()
        if moved or sizes or gone:
            for member in ("content.xml", "styles.xml"):
                if member in self.archive.members:
                    frames = partial(
                        rewrite_frames,
                        names=moved,
                        removed=frozenset(gone - moved.keys()),
                        sizes=sizes,
                    )
                    stories[member] = chain_rewrites(frames, stories.get(member))
            stories[MANIFEST] = partial(
                _rewrite_manifest,
                gone=frozenset(gone),
                changes=changes.names_alone(),
            )
        return stories

    def order(self, names: list[str]) -> list[str]:
        """Return the order of members: the media type comes first (part 3, 3.3)."""
        return sorted(names, key=lambda name: name != MIMETYPE)

    def _new_sizes(self) -> dict[str, NewSize]:
        """Return the new sizes of re-encoded pictures, by member."""
        sizes: dict[str, NewSize] = {}
        for part_id, picture in self._pictures.items():
            content = self.changes.replaced.get(picture.member)
            old = content and member_picture(self.archive.content(picture.member))
            new = content and member_picture(content)
            if old and new:
                size = NewSize(
                    before_pt=natural_size_pt(old),
                    after_pt=natural_size_pt(new),
                    cut=self.changes.cuts.get(part_id, _WHOLE),
                )
                repeats = [name for name in picture.repeats if name in self.changes.merged]
                sizes |= dict.fromkeys([picture.member, *repeats], size)
        return sizes


def rewrite_frames(
    content: bytes,
    names: Mapping[str, str],
    removed: frozenset[str],
    sizes: Mapping[str, NewSize],
) -> bytes:
    """The member leading to its pictures where they are now, with clips as long as they are now.

    names: new ones by old ones. removed: members that nothing may lead to any more.
    """
    root = parse_xml(content, "a member", "")
    for number, frame in enumerate(list(picture_frames(root))):
        size = sizes.get(frame.target)
        is_measured = frame.target == frame.clipped_by
        if size and frame.clip is not None and frame.style is not None and is_measured:
            own = f"{_style_name(frame.style)}-{number}"
            write_clip(frame, clip_within(frame.clip, size), own)
        if frame.target in names:
            prefix = "./" if frame.element.get(_HREF, "").startswith("./") else ""
            frame.element.set(_HREF, prefix + names[frame.target])
    for element in list(root.iter("{*}image", "{*}font-face-uri", "{*}plugin", "{*}sound")):
        if target_of(element) in removed:
            element.getparent().remove(element)
    for sources in list(root.iter("{*}font-face-src")):
        if not len(sources):
            sources.getparent().remove(sources)
    return write_xml(root)


def clip_within(clip: Lengths, size: NewSize) -> Lengths:
    """Return the hidden margins of the whole, in lengths of the kept region."""
    top, right, bottom, left = clip
    (width, height), (new_width, new_height) = size.before_pt, size.after_pt
    across = new_width / (size.cut[2] - size.cut[0])
    down = new_height / (size.cut[3] - size.cut[1])
    return (
        max(0.0, (top / height - size.cut[1]) * down),
        max(0.0, (right / width - (1 - size.cut[2])) * across),
        max(0.0, (bottom / height - (1 - size.cut[3])) * down),
        max(0.0, (left / width - size.cut[0]) * across),
    )


def _style_name(style: Any) -> str:
    return str(next(value for key, value in style.attrib.items() if key.endswith("}name")))


def _rewrite_manifest(content: bytes, gone: frozenset[str], changes: Changes) -> bytes:
    root = parse_xml(content, MANIFEST, "")
    namespace = root.tag.rpartition("}")[0] + "}"
    for entry in list(root.iter(f"{namespace}file-entry")):
        name = entry.get(f"{namespace}full-path", "")
        if name in gone:
            root.remove(entry)
        elif name in changes.renamed:
            new = changes.renamed[name]
            entry.set(f"{namespace}full-path", new)
            entry.set(f"{namespace}media-type", changes.media_types[new])
    return write_xml(root)
