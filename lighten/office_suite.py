"""Documents laid out to pages, or brought to another kind, by a free office suite.

Where none is installed, nothing is.
"""

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
    """Run a command; return whether it ended well in time. All its processes are gone then."""
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
    """LibreOffice as a program beside: it reads, and writes files of other kinds.

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
        """Lay each document out as a PDF in `folder`, in their order; None where that fails.

        documents: each with the ending, with its dot, that tells its kind.
        """
        made = self.convert(documents, "pdf", folder)
        if made is None:
            return None
        return tuple(
            path.replace(folder / f"pages-{number}.pdf") for number, path in enumerate(made)
        )

    def convert(
        self, documents: Sequence[tuple[Path, str]], target: str, folder: Path
    ) -> tuple[Path, ...] | None:
        """Convert each document in `folder`, in their order; None for each failure.

        target: the new ending without its dot, and after a colon the name of the suite's filter
        where that ending has several. documents: as in `lay_out`.
        """
        if not self.available():
            return None
        ending = "." + target.partition(":")[0]
        with TemporaryDirectory(dir=folder.resolve(), prefix=".lay-out-") as place:
            profile = Path(place) / "profile"
            _write_settings(profile)
            named = []
            for number, (path, own_ending) in enumerate(documents):
                name = Path(place) / f"document-{number}{own_ending}"
                name.symlink_to(path.resolve())
                named.append(name)
            made_in = Path(place) / "made"
            command = [
                self._program,
                f"-env:UserInstallation={profile.as_uri()}",
                *("--headless", "--norestore", "--convert-to", target, "--outdir", str(made_in)),
                *map(str, named),
            ]
            if not self._run(command, _PATIENCE_S):
                return None
            made = [made_in / name.with_suffix(ending).name for name in named]
            if not all(path.exists() for path in made):
                return None
            return tuple(path.replace(folder / f"made-{path.name}") for path in made)


def _write_settings(profile: Path) -> None:
    """Write settings for a profile of its own, so that no user's profile is used."""
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
