"""The limits that ship."""

from dataclasses import dataclass, field

from lighten import Carrier, Checklist, Limit, NameRule

__all__ = ["SHIPPED_LIMITS", "ShippedLimit"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShippedLimit:
    """A limit with the name of where it is met. Figures: common practice, no source."""

    name: str
    title: str
    limit: Limit
    checklist: Checklist = field(default_factory=Checklist)


SHIPPED_LIMITS = (
    ShippedLimit(
        name="strict-mailbox",
        title="Strict mailbox",
        limit=Limit(size_bytes=5_000_000, carrier=Carrier.MESSAGE),
    ),
    ShippedLimit(
        name="mailbox", title="Mailbox", limit=Limit(size_bytes=10_000_000, carrier=Carrier.MESSAGE)
    ),
    ShippedLimit(
        name="roomy-mailbox",
        title="Roomy mailbox",
        limit=Limit(size_bytes=25_000_000, carrier=Carrier.MESSAGE),
    ),
    ShippedLimit(name="upload-portal", title="Upload portal", limit=Limit(size_bytes=5_000_000)),
    ShippedLimit(
        name="archive-deposit",
        title="Archive deposit",
        limit=Limit(size_bytes=100_000_000),
        checklist=Checklist(
            endings=(".pdf", ".tif"),
            needs_pdf_a=True,
            names=NameRule(no_spaces=True, ascii_only=True, most_letters=64),
        ),
    ),
)
