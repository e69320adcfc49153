"""Copies as mail messages, which any mail program opens (RFC 5322, RFC 2045, RFC 2183)."""

import mimetypes
from collections.abc import Sequence
from dataclasses import dataclass
from email.message import EmailMessage
from email.policy import SMTP
from hashlib import sha256
from pathlib import Path

from lighten.model.limits import message_bytes

__all__ = ["Attachment", "Message", "plan_messages"]

# Where the number of messages is not known yet.
_ROOM_FOR_NUMBER = " (99 of 99)"


@dataclass(frozen=True, slots=True, kw_only=True)
class Attachment:
    """name: as it is to be called by whoever gets it."""

    name: str
    path: Path

    @property
    def size_bytes(self) -> int:
        return self.path.stat().st_size


@dataclass(frozen=True, slots=True, kw_only=True)
class Message:
    """One of several. size_bytes: of all of it as it travels, to the byte."""

    subject: str
    text: str
    attachments: tuple[Attachment, ...]

    @property
    def size_bytes(self) -> int:
        without = len(self._built(empty=True).as_bytes())
        bodies = sum(message_bytes(one.size_bytes) for one in self.attachments)
        return without + bodies

    def as_bytes(self) -> bytes:
        """Serialise a message without sender, date and recipients, which the mail program adds."""
        return self._built().as_bytes()

    def _built(self, *, empty: bool = False) -> EmailMessage:
        message = EmailMessage(policy=SMTP)
        message["Subject"] = self.subject
        # Mail programs that know it open the file to be written on, and not as one that came.
        message["X-Unsent"] = "1"
        message.set_content(self.text)
        for one in self.attachments:
            guessed = mimetypes.guess_type(one.name)[0] or "application/octet-stream"
            kind, _, subkind = guessed.partition("/")
            message.add_attachment(
                b"" if empty else one.path.read_bytes(),
                maintype=kind,
                subtype=subkind,
                filename=one.name,
            )
        if self.attachments:
            # The same input makes the same bytes.
            names = "\0".join(one.name for one in self.attachments)
            message.set_boundary(sha256(names.encode()).hexdigest()[:32])
        return message


def plan_messages(
    attachments: Sequence[Attachment], subject: str, text: str, most_bytes: int | None = None
) -> tuple[Message, ...]:
    """Distribute files to the fewest messages within the limit, in their order.

    What is heavier by itself has a message of its own, which is too heavy. most_bytes: None for
    one message, whatever it weighs.
    """
    groups: list[list[Attachment]] = []
    for one in attachments:
        longer = [*groups[-1], one] if groups else [one]
        if groups and not _is_too_heavy(longer, subject + _ROOM_FOR_NUMBER, text, most_bytes):
            groups[-1].append(one)
        else:
            groups.append([one])
    return tuple(
        Message(
            subject=subject if len(groups) == 1 else f"{subject} ({number} of {len(groups)})",
            text=text,
            attachments=tuple(group),
        )
        for number, group in enumerate(groups, start=1)
    )


def _is_too_heavy(group: list[Attachment], subject: str, text: str, most_bytes: int | None) -> bool:
    if most_bytes is None:
        return False
    message = Message(subject=subject, text=text, attachments=tuple(group))
    return message.size_bytes > most_bytes
