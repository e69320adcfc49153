"""The copies of a run as mail messages."""

from lighten import (
    Attachment,
    Carrier,
    Message,
    numbered_names,
    plan_messages,
    rounded_size,
)
from web.satchels.copies.copies_zip import files_of
from web.satchels.copies.slips import slip_of
from web.satchels.models import Copy, Run

__all__ = ["message_limit", "messages_of"]


def message_limit(run: Run) -> int | None:
    """Return the bytes that one message may weigh by the satchel's limit; None where it counts
    files.
    """
    limit = run.satchel.limit
    return limit.size_bytes if limit is not None and limit.carrier is Carrier.MESSAGE else None


def messages_of(run: Run) -> tuple[Message, ...]:
    """Return the messages that the satchel's limit needs, where it counts by message; else one."""
    attachments: list[Attachment] = []
    taken: set[str] = set()
    for copy in run.copies.filter(state=Copy.State.DONE).select_related("document__satchel"):
        for name, path in files_of(copy):
            # Files of several folders may have one name, and whoever saves them has one folder.
            free = next(one for one in numbered_names(name) if one.casefold() not in taken)
            taken.add(free.casefold())
            attachments.append(Attachment(name=free, path=path))
    if not attachments:
        return ()
    return plan_messages(attachments, run.satchel.name, _text(run), message_limit(run))


def _text(run: Run) -> str:
    """Describe the changes in plain words."""
    lines = ["Attached are lighter copies; the originals are kept as they are.", ""]
    for row in slip_of(run)["rows"]:
        if row["bytes_after"] is None or not row["verdict"]:
            continue
        sizes = f"{rounded_size(row['bytes_before'])} -> {rounded_size(row['bytes_after'])}"
        lines.append(f"{row['name']}: {sizes}, {row['verdict_summary']}.")
        if row["gone"]:
            lines.append(f"  Cannot be undone in it: {', '.join(row['gone'])}.")
    return "\n".join(lines) + "\n"
