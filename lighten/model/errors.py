"""Everything that can go wrong for a caller who would act differently.

A `code` is stable and safe for an API; the message may be shown to the person.
"""

__all__ = [
    "BadPresetError",
    "DoesNotFitError",
    "LightenError",
    "LimitExceededError",
    "MissingToolError",
    "PasswordNeededError",
    "SignedFileError",
    "TooCoarseError",
    "UnforeseenDamageError",
    "UnreadableFileError",
    "UnsoundCopyError",
    "UnsupportedFileError",
    "WrongDecisionError",
]


class LightenError(Exception):
    """The root of all errors that leave the core."""

    code = "failed"

    @property
    def message(self) -> str:
        return str(self)


class UnreadableFileError(LightenError):
    """Damaged or cut short."""

    code = "unreadable"


class UnforeseenDamageError(UnreadableFileError):
    """Damaged in a way that others' code stumbled over; the cause says where."""


class PasswordNeededError(UnreadableFileError):
    """Sound, but locked: no password was given, or a wrong one."""

    code = "password_needed"


class UnsoundCopyError(LightenError):
    """The copy cannot be opened, or has other pages than the original; it is not handed out."""

    code = "unsound"


class UnsupportedFileError(LightenError):
    """Sound perhaps, but no format here recognises it."""

    code = "unsupported"


class LimitExceededError(LightenError):
    """Too many bytes, pages, pixels or objects to be worked on safely."""

    code = "too_large"


class MissingToolError(LightenError):
    """A program beside is needed that is not installed here."""

    code = "missing_tool"


class TooCoarseError(LightenError):
    """Text would become a picture that nobody can read, and nobody has said that it may."""

    code = "too_coarse"


class SignedFileError(LightenError):
    """A change would end a signature, and nobody has said that it may."""

    code = "signed"


class BadPresetError(LightenError):
    """A preset, a treatment or an exception that is not what its schema asks for."""

    code = "bad_preset"


class WrongDecisionError(LightenError):
    """A plan that does not belong to the file it is to be carried out on."""

    code = "wrong_plan"


class DoesNotFitError(LightenError):
    """No copy by the rules is as light as the limit asks. lightest_bytes: about the least."""

    code = "does_not_fit"

    def __init__(self, message: str, *, lightest_bytes: int) -> None:
        super().__init__(message)
        self.lightest_bytes = lightest_bytes
