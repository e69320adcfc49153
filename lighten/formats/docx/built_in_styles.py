"""Definitions of styles that word processors bring with every new document.

A definition is known by a digest of its content, so that one which somebody changed is not.
Source: the template of the registry package python-docx, made by a word processor in common use.
"""

import hashlib
from functools import cache
from importlib.resources import files
from typing import Any

from lighten.containers.xml_parts import local_name

__all__ = ["digest_of_definition", "is_built_in"]

_DIGEST_LETTERS = 16
# Numbers of editing sessions.
_TRACES = ("rsid",)


def is_built_in(style: Any) -> bool:
    """Return True if the style's definition is, to the letter, one that programs bring."""
    return digest_of_definition(style) in _known()


def digest_of_definition(style: Any) -> str:
    """Return a digest that is the same for definitions that say the same."""
    content = repr(_content(style)).encode()
    return hashlib.sha256(content).hexdigest()[:_DIGEST_LETTERS]


def _content(element: Any) -> tuple[object, ...]:
    attributes = sorted((key.rpartition("}")[2], value) for key, value in element.attrib.items())
    children = (child for child in element if local_name(child) not in ("", *_TRACES))
    return (local_name(element), attributes, [_content(child) for child in children])


@cache
def _known() -> frozenset[str]:
    listed = files(__package__).joinpath("built_in_styles.txt").read_text("ascii")
    return frozenset(listed.split())
