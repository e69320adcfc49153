"""Green Satchel's core: lists what is heavy in a document, and makes lighter, proved copies.

path -> weigh -> WeightSheet -> plan -> Plan -> estimate | make -> Copy -> prove -> Proof

    >>> import tempfile
    >>> from pathlib import Path
    >>> from PIL import Image
    >>> import lighten
    >>> with tempfile.TemporaryDirectory() as folder:
    ...     photo = Path(folder) / "photo.png"
    ...     Image.effect_noise((600, 400), 60).convert("RGB").save(photo)
    ...     source = lighten.Source(path=photo)
    ...     sheet = lighten.weigh(source)
    ...     order = lighten.Order(preset=lighten.preset_named("Post"))
    ...     made = lighten.make(source, sheet, order, Path(folder) / "lighter")
    >>> [(part.id, part.kind.value) for part in sheet.parts][0]
    ('picture', 'picture')
    >>> made.copy.bytes_after < sheet.size_bytes
    True
    >>> made.proof.verdict
    <Verdict.CLOSE: 'close'>

The application and the command use no other names than these. `__init__.pyi` lists them by task; a
module is loaded when a name of it is first used, so that no heavy library is imported before.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
