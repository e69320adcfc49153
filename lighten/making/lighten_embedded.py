"""Documents inside a document, made lighter by the formats that they are of."""

from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

from lighten.contract import ConvertingFormat, Editing, Nesting
from lighten.model.errors import LightenError
from lighten.model.kinds import PartKind
from lighten.model.plans import Action, Copy, Plan
from lighten.model.presets import Preset
from lighten.model.proofs import Verdict
from lighten.model.source import Source, no_progress
from lighten.model.weights import WeightSheet
from lighten.planning.decide import plan as plan_document
from lighten.proving.compare import prove
from lighten.registry import format_of

__all__ = ["lighten_embedded"]

# Carries out a plan on a source, into a file.
Make = Callable[[Source, WeightSheet, Plan, Path], Copy]


def lighten_embedded(
    editing: Editing, sheet: WeightSheet, plan: Plan, folder: Path, make: Make
) -> None:
    """Put lighter copies in the place of documents inside, each proved; others stay.

    folder: for temporary files. make: what it takes to copy them.
    """
    if plan.embedded is None or not isinstance(editing, Nesting):
        return
    preset = Preset(name=plan.preset, title="", description="", treatment=plan.embedded)
    decisions = plan.by_part()
    for part in sheet.parts:
        if part.kind is PartKind.EMBEDDED and decisions[part.id].action is Action.RECODE:
            lighter = _lighter(editing.embedded(part), preset, folder, make)
            if lighter is not None:
                editing.put_embedded(part, lighter)


def _lighter(content: bytes, preset: Preset, folder: Path, make: Make) -> bytes | None:
    """Return a lighter copy; None if unsupported, not lighter, or its proof failed."""
    with TemporaryDirectory(dir=folder, prefix=".inside-") as place:
        path, out = Path(place) / "inside", Path(place) / "lighter"
        path.write_bytes(content)
        source = Source(path=path)
        try:
            format_ = format_of(source)
            if isinstance(format_, ConvertingFormat):
                return None
            sheet = format_.weigh(source, no_progress)
            copy = make(source, sheet, plan_document(sheet, preset), out)
            # Whatever holds it knows of what kind it is.
            if copy.path is None or copy.media_type != sheet.media_type:
                return None
            proof = prove(source, Source(path=copy.path), sheet, copy.outcomes)
        except LightenError:
            return None
        return None if proof.verdict is Verdict.CHECK else out.read_bytes()
