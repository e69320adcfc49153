"""Loose pictures against the loop anybody would write: `python -m benchmarks.photos FILE...`.

Looks are those at 25 cm and 150 ppi, against the original brought there by Pillow's Lanczos, which
the loop uses too: where the two differ only in how they resample, the loop looks better.
"""

import io
import sys
import tempfile
from pathlib import Path

from PIL import Image, ImageCms, ImageOps

from benchmarks.looks import ssimulacra2
from benchmarks.run import measure

_LONGER_SIDE_PX = round(25 / 2.54 * 150)
_QUALITY = 75


def plain_loop(source: Path, out: Path) -> None:
    """Turned upright, brought to 150 ppi, a JPEG at quality 75 with all it carried."""
    with Image.open(source) as image:
        kept = {name: image.info[name] for name in ("exif", "icc_profile") if name in image.info}
        small = _as_seen(image)
        small.save(out, "JPEG", quality=_QUALITY, optimize=True, **kept)


def _as_seen(image: Image.Image) -> Image.Image:
    upright = ImageOps.exif_transpose(image).convert("RGB")
    upright.thumbnail((_LONGER_SIDE_PX, _LONGER_SIDE_PX), Image.Resampling.LANCZOS)
    return upright


def main() -> None:
    command = Path(sys.executable).with_name("green-satchel")
    print("bytes: of the original. looks: SSIMULACRA2. time: of ours, proof included")
    weights = [0, 0, 0]
    for name in sys.argv[1:]:
        with tempfile.TemporaryDirectory() as folder:
            source, plain = Path(name), Path(folder) / "plain.jpg"
            reference = measure([sys.executable, "-m", "benchmarks.photos", "--loop", name, plain])
            ours = measure([command, "lighten", source, "--out", folder])
            copy = next(Path(folder).glob(f"{source.stem}-light.*"), source)
            made = [path.stat().st_size for path in (source, copy, plain)]
            weights = [total + size for total, size in zip(weights, made, strict=True)]
            print(
                f"{source.name[:34]:<36}{made[0]:>11,} B"
                f"   ours {made[1] / made[0]:6.1%} looks {_looks(source, copy):5.1f}"
                f"   loop {made[2] / made[0]:6.1%} looks {_looks(source, plain):5.1f}"
                f"   {ours.seconds:5.1f} / {reference.seconds:4.1f} s",
                flush=True,
            )
    print(f"together: ours {weights[1] / weights[0]:.1%}, loop {weights[2] / weights[0]:.1%}")


def _looks(source: Path, copy: Path) -> float:
    with Image.open(source) as before, Image.open(copy) as after:
        expected = _as_seen(_in_srgb(ImageOps.exif_transpose(before)))
        seen = _in_srgb(ImageOps.exif_transpose(after)).convert("RGB")
        return ssimulacra2(expected, seen.resize(expected.size, Image.Resampling.LANCZOS))


def _in_srgb(image: Image.Image) -> Image.Image:
    profile = image.info.get("icc_profile")
    if not profile or image.mode != "RGB":
        return image
    source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    plain = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"))
    assert plain is not None
    return plain


if __name__ == "__main__":
    if sys.argv[1:2] == ["--loop"]:
        plain_loop(Path(sys.argv[2]), Path(sys.argv[3]))
    else:
        main()
