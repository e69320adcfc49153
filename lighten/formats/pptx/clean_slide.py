"""Removal of invisible parts from the XML of slides, layouts, masters and notes.

Kinds of extras say what is removed by choice; runs that look alike are always joined.
Source: ECMA-376 part 1, clauses 20.1.9 (shapes) and 21.1.2 (text).
"""

import re
from collections.abc import Collection
from typing import Any

from lighten.containers.opc import relation_of
from lighten.containers.xml_parts import local_name, parse_xml, write_xml
from lighten.model.kinds import ExtraKind

__all__ = ["clean_slide", "without_sites", "without_traces"]

# Numbers that distinguish shapes of two versions, each in an extension of its own.
_TRACE_ELEMENTS = ("creationId", "modId")
_TRACE_ATTRIBUTES = ("dirty", "err", "smtClean", "smtId")
_TRACES = re.compile(
    rb"\s(?:dirty|err|smtClean|smtId)=\"[^\"]*\""
    rb"|<(?:p|a):ext uri=\"[^\"]*\"><\w+:(?:creationId|modId) [^>]*/></(?:p|a):ext>"
)
_SITES = re.compile(rb"<a:cxnLst>.*?</a:cxnLst>", re.DOTALL)
_WORDS = re.compile(r"[A-Za-z_]\w*")
_CONNECTIONS = ("stCxn", "endCxn")


def without_traces(content: bytes) -> bytes:
    """Return the member about as it is without `EDITING_TRACES`, to weigh these."""
    return _TRACES.sub(b"", content)


def without_sites(content: bytes) -> bytes:
    """Remove `CONNECTION_SITES`."""
    if not _SITES.search(content):
        return content
    root = parse_xml(content, "a member", "")
    _strip_sites(root)
    return write_xml(root)


def clean_slide(
    content: bytes, *, dropped: Collection[ExtraKind], gone: Collection[str] = ()
) -> bytes:
    """Clean a member: the same words and formatting in fewer bytes.

    dropped: kinds of extras that go. gone: ids of relationships to what goes: layouts, films.
    """
    root = parse_xml(content, "a member", "")
    if ExtraKind.EDITING_TRACES in dropped:
        _strip_traces(root)
    if ExtraKind.CONNECTION_SITES in dropped:
        _strip_sites(root)
    if gone:
        _strip_layouts(root, gone)
        _strip_media(root, gone)
    _join_runs(root)
    return write_xml(root)


def _strip_traces(root: Any) -> None:
    for element in list(root.iter(*(f"{{*}}{name}" for name in _TRACE_ELEMENTS))):
        extension = element.getparent()
        if local_name(extension) == "ext" and len(extension) == 1:
            _remove_extension(extension)
    for properties in root.iter("{*}rPr", "{*}endParaRPr", "{*}defRPr"):
        for name in _TRACE_ATTRIBUTES:
            properties.attrib.pop(name, None)


def _remove_extension(extension: Any) -> None:
    extensions = extension.getparent()
    extensions.remove(extension)
    if not len(extensions) and local_name(extensions) == "extLst":
        extensions.getparent().remove(extensions)


def _strip_sites(root: Any) -> None:
    """Remove connection sites of shapes without connected lines, and the formulas that only they
    used.
    """
    fastened = {
        element.get("id", "") for element in root.iter(*(f"{{*}}{name}" for name in _CONNECTIONS))
    }
    for geometry in root.iter("{*}custGeom"):
        sites = geometry.find("{*}cxnLst")
        if sites is None or _id_of_shape(geometry) in fastened:
            continue
        geometry.remove(sites)
        guides = geometry.find("{*}gdLst")
        while guides is not None:
            used = _words_in(geometry)
            idle = [guide for guide in guides if guide.get("name", "") not in used]
            for guide in idle:
                guides.remove(guide)
            if not idle:
                break


def _id_of_shape(geometry: Any) -> str:
    shape = geometry.getparent().getparent()
    named = next(shape.iter("{*}cNvPr"), None)
    return named.get("id", "") if named is not None else ""


def _words_in(geometry: Any) -> set[str]:
    """Return every name that values mention, without definitions."""
    return {
        word
        for element in geometry.iter("*")
        for key, value in element.attrib.items()
        if not (key == "name" and local_name(element) == "gd")
        for word in _WORDS.findall(value)
    }


def _strip_layouts(root: Any, gone: Collection[str]) -> None:
    for element in list(root.iter("{*}sldLayoutId", "{*}sldMasterId")):
        if relation_of(element) in gone:
            element.getparent().remove(element)


def _strip_media(root: Any, gone: Collection[str]) -> None:
    """Remove films and sounds; a film's frame keeps its still picture."""
    silent: set[str] = set()
    for element in list(root.iter("*")):
        name = local_name(element)
        if name not in _MEDIA_ELEMENTS or relation_of(element) not in gone:
            continue
        holder = next(element.iterancestors("{*}pic", "{*}sp", "{*}graphicFrame"), None)
        if name in ("snd", "sndTgt"):
            _remove_sound(element)
            continue
        if holder is not None:
            named = next(holder.iter("{*}cNvPr"), None)
            if named is None:
                continue
            silent.add(named.get("id", ""))
            for click in list(named):
                if local_name(click) == "hlinkClick" and "media" in click.get("action", ""):
                    named.remove(click)
        if local_name(element.getparent()) == "ext":
            _remove_extension(element.getparent())
        else:
            element.getparent().remove(element)
    if silent:
        _strip_playing(root, silent)


_MEDIA_ELEMENTS = frozenset(
    {"videoFile", "audioFile", "quickTimeFile", "wavAudioFile", "media", "snd", "sndTgt"}
)


def _remove_sound(element: Any) -> None:
    """Remove the sound of a transition, a link, or an animation."""
    for above in (element, *element.iterancestors()):
        parent = above.getparent()
        if parent is not None and (len(parent) > 1 or local_name(above) in ("sndAc", "snd")):
            if local_name(parent) in ("stSnd", "sndAc"):
                continue
            parent.remove(above)
            return


def _strip_playing(root: Any, silent: Collection[str]) -> None:
    """Remove animation steps that play removed media, and empty steps."""
    for name in ("video", "audio", "cmd"):
        for step in list(root.iter(f"{{*}}{name}")):
            target = next(step.iter("{*}spTgt"), None)
            if target is not None and target.get("spid") in silent:
                _remove_step(step)


def _remove_step(step: Any) -> None:
    while True:
        parent = step.getparent()
        parent.remove(step)
        if len(parent) or local_name(parent) != "childTnLst":
            return
        # The list of steps, its node, and what holds that.
        node = parent.getparent()
        step = node.getparent()
        if local_name(step) not in ("par", "seq", "excl"):
            return
        if local_name(step.getparent()) == "tnLst":
            timing = step.getparent().getparent()
            timing.getparent().remove(timing)
            return


def _join_runs(root: Any) -> None:
    """Join neighbouring runs that look alike; links stay as many as they were."""
    from lxml import etree

    for run in list(root.iter("{*}r")):
        before = run.getprevious()
        if before is None or before.tag != run.tag:
            continue
        looks = []
        for one in (before, run):
            properties = one.find("{*}rPr")
            looks.append(b"" if properties is None else etree.tostring(properties, with_tail=False))
        texts = [one.find("{*}t") for one in (before, run)]
        if b"hlinkClick" in looks[0] or b"hlinkMouseOver" in looks[0]:
            continue
        if looks[0] != looks[1] or None in texts or len(run) > 2 or len(before) > 2:
            continue
        texts[0].text = (texts[0].text or "") + (texts[1].text or "")
        run.getparent().remove(run)
