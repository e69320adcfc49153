"""The copies of a run as mail messages."""

from lighten import Attachment, Message, plan_messages
from web.satchels.copies_zip import files_of
from web.satchels.models import Copy, Run
from web.satchels.slips import slip_of

__all__ = ["messages_of"]

_VERDICTS = {
    "same": "looks the same",
    "close": "hardly any difference",
    "look": "has places to look at",
}
_BY_MESSAGE = "message"


def messages_of(run: Run) -> tuple[Message, ...]:
    """As many as the satchel's limit asks for, where it counts by the message; else one."""
    attachments = [
        Attachment(name=name, path=path)
        for copy in run.copies.filter(state=Copy.State.DONE).select_related("document__satchel")
        for name, path in files_of(copy)
    ]
    if not attachments:
        return ()
    satchel = run.satchel
    is_by_message = satchel.limit_carrier == _BY_MESSAGE
    most_bytes = satchel.limit_bytes if is_by_message else None
    return plan_messages(attachments, satchel.name, _text(run), most_bytes)


def _text(run: Run) -> str:
    """What was done, in plain words."""
    lines = ["Attached are lighter copies; the originals are kept as they are.", ""]
    for row in slip_of(run)["rows"]:
        if row["bytes_after"] is None or not row["verdict"]:
            continue
        sizes = f"{_size(row['bytes_before'])} -> {_size(row['bytes_after'])}"
        lines.append(f"{row['name']}: {sizes}, {_VERDICTS[row['verdict']]}.")
        if row["gone"]:
            lines.append(f"  Cannot be undone in it: {', '.join(row['gone'])}.")
    return "\n".join(lines) + "\n"


def _size(size_bytes: int) -> str:
    """In kB or MB of 1000 (IEC 80000-13)."""
    if size_bytes < 1_000_000:
        return f"{size_bytes / 1000:.0f} kB"
    return f"{size_bytes / 1_000_000:.1f} MB"
