"""Documents that are packages, made lighter and looked into."""

import zipfile
from typing import Any

from lighten import Order, OrderResult, Preset, Source, Verdict, make, preset_named, weigh
from tests.builders import FolderCase

__all__ = ["PackageCase"]


class PackageCase(FolderCase):
    """A case whose copies are proved, and have members."""

    def make(
        self, source: Source, preset: str | Preset = "reading-desk", **order: Any
    ) -> OrderResult:
        chosen = preset_named(preset) if isinstance(preset, str) else preset
        out = self.folder / "copy"
        out.unlink(missing_ok=True)
        made = make(source, weigh(source), Order(preset=chosen, **order), out)
        if made.proof is not None:
            self.assertIsNot(made.proof.verdict, Verdict.CHECK, made.proof.reasons)
        return made

    def members(self, made: OrderResult) -> dict[str, bytes]:
        assert made.copy.path is not None, made.copy.reasons
        with zipfile.ZipFile(made.copy.path) as file:
            self.assertIsNone(file.testzip())
            return {name: file.read(name) for name in file.namelist()}
