"""Documents laid out to pages by a free office suite, where one is installed."""

import os
import shutil
import signal
import subprocess
from collections.abc import Callable, Sequence
from html import escape
from pathlib import Path
from tempfile import TemporaryDirectory

__all__ = ["OfficeSuite"]

_PATIENCE_S = 120.0
# Nothing is fetched for a document, and nothing in it is run.
_SETTINGS = {
    "BlockUntrustedRefererLinks": "true",
    "DisableMacrosExecution": "true",
    "DisableActiveContent": "true",
    "MacroSecurityLevel": "3",
}
_SETTINGS_PATH = "/org.openoffice.Office.Common/Security/Scripting"

Run = Callable[[Sequence[str], float], bool]


def _run(command: Sequence[str], patience_s: float) -> bool:
    """Whether it ended well within that time; with all its processes gone in any case."""
    with subprocess.Popen(
        command,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
        start_new_session=True,
    ) as process:
        try:
            return process.wait(patience_s) == 0
        except subprocess.TimeoutExpired:
            return False
        finally:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)


class OfficeSuite:
    """LibreOffice as a program beside: it only reads, and writes PDF files.

    program: where it is; "" where it is not. run: starts it, for tests without one.
    """

    def __init__(self, program: str | None = None, run: Run = _run) -> None:
        found = shutil.which("soffice") if program is None else program
        self._program, self._run = found or "", run

    def available(self) -> bool:
        return bool(self._program)

    def lay_out(
        self, documents: Sequence[tuple[Path, str]], folder: Path
    ) -> tuple[Path, ...] | None:
        """A PDF in `folder` for each document, in their order; None where that cannot be had.

        documents: each with the ending, with its dot, that tells its kind.
        """
        if not self.available():
            return None
        with TemporaryDirectory(dir=folder, prefix=".lay-out-") as place:
            profile = Path(place) / "profile"
            _write_settings(profile)
            named = []
            for number, (path, ending) in enumerate(documents):
                name = Path(place) / f"document-{number}{ending}"
                name.symlink_to(path.resolve())
                named.append(name)
            command = [
                self._program,
                f"-env:UserInstallation={profile.as_uri()}",
                *("--headless", "--norestore", "--convert-to", "pdf", "--outdir", place),
                *map(str, named),
            ]
            if not self._run(command, _PATIENCE_S):
                return None
            made = [name.with_suffix(".pdf") for name in named]
            if not all(path.exists() for path in made):
                return None
            return tuple(
                path.replace(folder / f"pages-{number}.pdf") for number, path in enumerate(made)
            )


def _write_settings(profile: Path) -> None:
    """A profile of its own, so that nobody's is used or changed."""
    user = profile / "user"
    user.mkdir(parents=True)
    items = "".join(
        f'<item oor:path="{_SETTINGS_PATH}"><prop oor:name="{escape(name)}" oor:op="fuse">'
        f"<value>{value}</value></prop></item>"
        for name, value in _SETTINGS.items()
    )
    (user / "registrymodifications.xcu").write_text(
        '<?xml version="1.0" encoding="UTF-8"?><oor:items'
        ' xmlns:oor="http://openoffice.org/2001/registry"'
        ' xmlns:xs="http://www.w3.org/2001/XMLSchema"'
        f' xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">{items}</oor:items>'
    )
