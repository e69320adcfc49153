"""Pivot tables without the rows they were made of.

Source: ECMA-376 part 1, 18.10.1.67 (`refreshOnLoad`, `saveData`).
"""

from lighten.containers.xml_parts import parse_xml, write_xml

__all__ = ["refresh_on_opening"]


def refresh_on_opening(content: bytes) -> bytes:
    """Make a pivot cache refresh on opening, without stored records."""
    root = parse_xml(content, "a pivot cache", "")
    root.set("refreshOnLoad", "1")
    root.set("saveData", "0")
    for key in list(root.attrib):
        if key.endswith("}id") or key == "recordCount":
            del root.attrib[key]
    return write_xml(root)
