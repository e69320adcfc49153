"""The command green-satchel: what is done with files, and what is done with an installation.

Verbs for files are the core's own and know nothing of the application.
"""

import sys
from collections.abc import Callable, Sequence

from lighten.cli import main as with_files

__all__ = ["main"]


def main(arguments: Sequence[str] | None = None) -> int:
    words = list(sys.argv[1:] if arguments is None else arguments)
    verbs: dict[str, Callable[[Sequence[str]], int]] = {
        "serve": _serve,
        "work": _work,
        "people": _people,
        "doctor": _doctor,
        "backup": _backup,
    }
    if words and words[0] in verbs:
        return verbs[words[0]](words[1:])
    return with_files(words)


def _serve(arguments: Sequence[str]) -> int:
    from host.serve import serve_command

    return serve_command(arguments)


def _work(arguments: Sequence[str]) -> int:
    from host.serve import work_command

    return work_command(arguments)


def _people(arguments: Sequence[str]) -> int:
    from host.people import people_command

    return people_command(arguments)


def _doctor(arguments: Sequence[str]) -> int:
    from host.doctor import doctor_command

    return doctor_command(arguments)


def _backup(arguments: Sequence[str]) -> int:
    from host.backup import backup_command

    return backup_command(arguments)


if __name__ == "__main__":
    sys.exit(main())
