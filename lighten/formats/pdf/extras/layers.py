"""Optional content: which layers are off, and drawing without them (ISO 32000-1, 8.11)."""

import operator
import re
from collections.abc import Iterator

import pikepdf

from lighten.formats.pdf.objects.object_spans import ObjectId
from lighten.formats.pdf.objects.values import array_of, dictionary_of, text_of

__all__ = ["hidden_layers", "hidden_share", "is_hidden", "without_hidden"]

Instructions = list[pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage]

_PAINTS_PATH = {"S", "s", "f", "F", "f*", "B", "B*", "b", "b*"}
_PAINTS_ELSE = {"Do", "sh", "INLINE IMAGE"}
_SHOWS_TEXT = {"Tj", "TJ", "'", '"'}
_OPENS = {"BDC", "BMC"}
_ESCAPED_NAME = re.compile(rb"/[^\s/<>\[\]()]*#")


def hidden_layers(pdf: pikepdf.Pdf) -> set[ObjectId]:
    """The groups that are off when the document is opened."""
    properties = pdf.Root.get("/OCProperties")
    if not isinstance(properties, pikepdf.Dictionary):
        return set()
    usual = properties.get("/D")
    if not isinstance(usual, pikepdf.Dictionary):
        return set()
    groups = _ids(properties.get("/OCGs"))
    off = _ids(usual.get("/OFF"))
    if usual.get("/BaseState") == "/OFF":
        off |= groups - _ids(usual.get("/ON"))
    return off & groups


def is_hidden(content: pikepdf.Object | None, hidden: set[ObjectId]) -> bool:
    """Return whether content of this group, or of these groups by a rule, is hidden.

    Rules written as expressions (VE) count as shown: what is left in loses nothing.
    """
    if not isinstance(content, pikepdf.Dictionary) or "/VE" in content:
        return False
    if content.get("/Type") != "/OCMD":
        return content.objgen in hidden
    groups = content.get("/OCGs")
    members = [groups] if isinstance(groups, pikepdf.Dictionary) else array_of(groups)
    off = [dictionary_of(member).objgen in hidden for member in members]
    is_hidden_by = {
        "/AllOn": any(off),
        "/AnyOff": not any(off),
        "/AllOff": not all(off),
        "/AnyOn": all(off),
    }
    return bool(off) and is_hidden_by.get(text_of(content.get("/P", "/AnyOn")), False)


def without_hidden(
    stream: pikepdf.Object, resources: pikepdf.Object | None, hidden: set[ObjectId]
) -> bytes | None:
    """Return the content of a page or form without what hidden layers draw; None if nothing goes.

    Settings stay where they are, as later drawing relies on them.
    """
    split = _split(stream, resources, hidden)
    return None if split is None else pikepdf.unparse_content_stream(split[1])


def hidden_share(
    stream: pikepdf.Object, resources: pikepdf.Object | None, hidden: set[ObjectId]
) -> float:
    """Return the share of a content's bytes that hidden layers draw, both written alike."""
    split = _split(stream, resources, hidden)
    if split is None:
        return 0.0
    whole, kept = (len(pikepdf.unparse_content_stream(part)) for part in split)
    return max(0.0, 1 - kept / max(1, whole))


def _split(
    stream: pikepdf.Object, resources: pikepdf.Object | None, hidden: set[ObjectId]
) -> tuple[Instructions, Instructions] | None:
    """Return all instructions, and those that no hidden layer draws; None where these are all."""
    if not isinstance(resources, pikepdf.Dictionary):
        return None
    names = {
        name for name, value in _items(resources.get("/Properties")) if is_hidden(value, hidden)
    }
    objects = {
        name
        for name, value in _items(resources.get("/XObject"))
        if isinstance(value, pikepdf.Stream) and is_hidden(value.get("/OC"), hidden)
    }
    if not (names or objects) or not _may_use(stream, names, objects):
        return None
    target = pikepdf.Page(stream) if stream.get("/Type") == "/Page" else stream
    instructions = pikepdf.parse_content_stream(target)
    kept = list(_kept(instructions, names, objects))
    is_all = len(kept) == len(instructions) and all(map(operator.is_, kept, instructions))
    return None if is_all else (instructions, kept)


def _may_use(stream: pikepdf.Object, names: set[str], objects: set[str]) -> bool:
    """Return whether the content may use any of the names; a search is quicker than parsing.

    Resources are often shared by all pages, and name layers that one page draws.
    """
    contents = stream if isinstance(stream, pikepdf.Stream) else stream.get("/Contents")
    pieces = [contents] if isinstance(contents, pikepdf.Stream) else array_of(contents)
    text = b" ".join(piece.read_bytes() for piece in pieces if isinstance(piece, pikepdf.Stream))
    # Names may be written with escapes (ISO 32000-1, 7.3.5).
    has_escapes = _ESCAPED_NAME.search(text) is not None
    return has_escapes or (
        (bool(names) and b"/OC" in text) or any(name.encode() in text for name in objects)
    )


def _kept(
    instructions: Instructions,
    names: set[str],
    objects: set[str],
) -> Iterator[pikepdf.ContentStreamInstruction | pikepdf.ContentStreamInlineImage]:
    marks: list[bool] = []
    for instruction in instructions:
        verb, operands = text_of(instruction.operator), list(instruction.operands)
        if verb in _OPENS:
            is_off = verb == "BDC" and _name(operands, 0) == "/OC" and _name(operands, 1) in names
            marks.append(is_off)
            if is_off:
                continue
        elif verb == "EMC" and marks and marks.pop():
            continue
        elif any(marks) and verb in _PAINTS_PATH:
            yield _instruction([], "n")
            continue
        elif any(marks) and verb in _PAINTS_ELSE:
            continue
        elif any(marks) and verb in _SHOWS_TEXT:
            yield from _moves_of(verb, operands)
            continue
        elif verb == "Do" and _name(operands, 0) in objects:
            continue
        yield instruction


def _moves_of(
    operator: str, operands: list[pikepdf.Object]
) -> Iterator[pikepdf.ContentStreamInstruction]:
    """Return the moves that a text operator makes besides: ' and " begin a line (ISO 32000-1,
    9.4.3).

    Text that follows on the same line would have stood after it; where that shifts, the proof
    of the copy finds it.
    """
    if operator == '"' and len(operands) == 3:
        yield pikepdf.ContentStreamInstruction([operands[0]], pikepdf.Operator("Tw"))
        yield pikepdf.ContentStreamInstruction([operands[1]], pikepdf.Operator("Tc"))
    if operator in ("'", '"'):
        yield _instruction([], "T*")


def _instruction(operands: list[int], operator: str) -> pikepdf.ContentStreamInstruction:
    return pikepdf.ContentStreamInstruction(operands, pikepdf.Operator(operator))


def _ids(groups: pikepdf.Object | None) -> set[ObjectId]:
    return {group.objgen for group in array_of(groups) if isinstance(group, pikepdf.Dictionary)}


def _name(operands: list[pikepdf.Object], place: int) -> str:
    """Return the name at a position; "" for any other object."""
    operand = operands[place] if place < len(operands) else None
    return text_of(operand) if isinstance(operand, pikepdf.Name) else ""


def _items(value: pikepdf.Object | None) -> list[tuple[str, pikepdf.Object]]:
    return list(value.items()) if isinstance(value, pikepdf.Dictionary) else []
