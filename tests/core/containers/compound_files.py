"""Small compound files by the paths of their streams."""

from collections.abc import Mapping

from lighten.containers.compound import Entry, write_compound

__all__ = ["compound_file"]


def compound_file(streams: Mapping[str, bytes]) -> bytes:
    """streams: by path, "Storage/Stream"."""
    return write_compound(Entry(name="Root Entry", children=_below(streams)))


def _below(streams: Mapping[str, bytes]) -> tuple[Entry, ...]:
    storages: dict[str, dict[str, bytes]] = {}
    entries = []
    for path, content in streams.items():
        first, _, rest = path.partition("/")
        if rest:
            storages.setdefault(first, {})[rest] = content
        else:
            entries.append(Entry(name=first, content=content))
    return (*entries, *(Entry(name=name, children=_below(of)) for name, of in storages.items()))
