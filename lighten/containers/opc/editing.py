"""Changes to a package of ECMA-376: content types, relationships and crops go along."""

import posixpath
from collections.abc import Mapping
from functools import partial

from lighten.containers.changes import Changes, Rewrite, chain_rewrites
from lighten.containers.opc.drawings import Crop, picture_references, write_crop
from lighten.containers.opc.package import CONTENT_TYPES, OpcPackage
from lighten.containers.opc.relationships import rels_name
from lighten.containers.package_editing import PackageEditing
from lighten.containers.xml_parts import parse_xml, write_xml
from lighten.model.plans import Plan
from lighten.pictures.recoding.recode_job import Cut

__all__ = ["OpcEditing", "rewrite_crops"]


class OpcEditing(PackageEditing):
    """See `PackageEditing`; formats rewrite the members that hold what people wrote."""

    package: OpcPackage

    def story_rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        """Return the format's rewrites of members of its own."""
        raise NotImplementedError

    def rewrites(self, plan: Plan) -> Mapping[str, Rewrite]:
        stories = dict(self.story_rewrites(plan))
        for member, cuts in self._cuts_by_member().items():
            stories[member] = chain_rewrites(partial(rewrite_crops, cuts=cuts), stories.get(member))
        changes = self.changes
        gone = changes.removed | changes.merged.keys()
        self.changes.removed |= {rels_name(member) for member in gone}
        moved = {*gone, *changes.renamed}
        for member, links in self.package.relationships.items():
            if any(not link.is_external and link.target in moved for link in links):
                stories[rels_name(member)] = partial(
                    _rewrite_relationships,
                    member=member,
                    removed=frozenset(changes.removed),
                    names={name: changes.name_now(name) for name in moved},
                )
        if moved:
            stories[CONTENT_TYPES] = partial(
                _rewrite_types, gone=frozenset(gone), changes=changes.names_alone()
            )
        return stories

    def gone_links(self, member: str, kind: str = "") -> frozenset[str]:
        """Return ids of relationships to removed members, of one kind or any."""
        links = self.package.relationships.get(member, ())
        return frozenset(
            link.id
            for link in links
            if link.target in self.changes.removed and kind in ("", link.kind)
        )

    def order(self, names: list[str]) -> list[str]:
        """Put the content types first, as streaming readers expect."""
        return sorted(names, key=lambda name: name != CONTENT_TYPES)

    def _cuts_by_member(self) -> dict[str, dict[str, Cut]]:
        """Return, for each member, the cut of each picture by the ids of its relationships."""
        cut_members: dict[str, Cut] = {}
        for part_id, cut in self.changes.cuts.items():
            cut_members[self._pictures[part_id].member] = cut
        by_member: dict[str, dict[str, Cut]] = {}
        for member, links in self.package.relationships.items():
            for link in links:
                shown = cut_members.get(self.changes.merged.get(link.target, link.target))
                if shown is not None and not link.is_external and member in self.archive.members:
                    by_member.setdefault(member, {})[link.id] = shown
        return by_member


def rewrite_crops(content: bytes, cuts: Mapping[str, Cut]) -> bytes:
    """Rewrite a member's crops to match pictures that were cut.

    cuts: by the id of a relationship, what stays of its picture, as shares of its sides.
    """
    root = parse_xml(content, "a member", "")
    for reference in picture_references(root):
        cut = cuts.get(reference.id)
        if cut is not None:
            write_crop(reference, crop_within(reference.crop, cut))
    return write_xml(root)


def crop_within(crop: Crop, cut: Cut) -> Crop:
    """Return the hidden part of the whole as the hidden part of the kept region."""
    left, top, right, bottom = crop
    width, height = cut[2] - cut[0], cut[3] - cut[1]
    return (
        (left - cut[0]) / width,
        (top - cut[1]) / height,
        (right - (1 - cut[2])) / width,
        (bottom - (1 - cut[3])) / height,
    )


def _rewrite_relationships(
    content: bytes, member: str, removed: frozenset[str], names: Mapping[str, str]
) -> bytes:
    root = parse_xml(content, rels_name(member), "")
    base = posixpath.dirname(member)
    for element in list(root):
        if element.get("TargetMode") == "External":
            continue
        target = element.get("Target", "")
        joined = target if target.startswith("/") else posixpath.join("/", base, target)
        name = posixpath.normpath(joined).lstrip("/")
        if name in removed:
            root.remove(element)
        elif name in names and names[name] != name:
            is_absolute = target.startswith("/")
            new = names[name]
            element.set("Target", f"/{new}" if is_absolute else posixpath.relpath(new, base or "."))
    return write_xml(root)


def _rewrite_types(content: bytes, gone: frozenset[str], changes: Changes) -> bytes:
    """Rewrite the content types without removed members, and with changed file types."""
    root = parse_xml(content, CONTENT_TYPES, "")
    namespace = root.tag.rpartition("}")[0] + "}"
    known = {element.get("Extension", "").lower() for element in root.iter(f"{namespace}Default")}
    for element in list(root.iter(f"{namespace}Override")):
        name = element.get("PartName", "").lstrip("/")
        if name in gone:
            root.remove(element)
        elif name in changes.renamed:
            new = changes.renamed[name]
            element.set("PartName", f"/{new}")
            element.set("ContentType", changes.media_types[new])
    for name, media_type in sorted(changes.media_types.items()):
        ending = name.rpartition(".")[2].lower()
        if ending not in known:
            known.add(ending)
            element = root.makeelement(f"{namespace}Default", {})
            element.set("Extension", ending)
            element.set("ContentType", media_type)
            root.insert(0, element)
    return write_xml(root)
