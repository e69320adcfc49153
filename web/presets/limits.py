"""The limits that ship."""

from dataclasses import dataclass

from lighten import Carrier, Limit

__all__ = ["SHIPPED_LIMITS", "ShippedLimit"]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShippedLimit:
    """A limit with the name of where it is met. Figures: common practice, no source."""

    name: str
    title: str
    limit: Limit


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
)
