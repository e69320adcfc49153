"""OpenDocument slides weighed, made lighter and proved.

Source: ISO/IEC 26300 part 1, clauses 9.2 and 10.
"""

import io
from dataclasses import replace

from PIL import Image

from lighten import (
    ExtraKind,
    PartKind,
    Preset,
    Source,
    Verdict,
    make_copy,
    plan,
    preset_named,
    prove,
    weigh,
)
from tests.core.formats.odp.samples import talk
from tests.core.formats.package_case import PackageCase
from tests.core.formats.package_samples import rewritten


def without(*extras: ExtraKind) -> Preset:
    preset = preset_named("reading-desk")
    dropped = preset.treatment.dropped_extras | set(extras)
    return replace(preset, treatment=replace(preset.treatment, dropped_extras=dropped))


class Slides(PackageCase):
    def talk(self) -> Source:
        return talk(self.folder / "talk.odp")

    def test_slides_are_weighed_with_films_apart_and_pictures_named_by_their_slide(self) -> None:
        sheet = weigh(self.talk())
        self.assertEqual(sheet.format, "odp")
        film = next(part for part in sheet.parts if part.kind is PartKind.MEDIA)
        self.assertIs(film.removed_with, ExtraKind.MEDIA)
        photo = next(part.picture for part in sheet.parts if part.picture)
        self.assertEqual(photo.near, "slide 1: Nets at dawn")
        self.assertEqual(photo.ppi, 300)  # 900 pixels on 3 inches

    def test_pictures_come_to_their_size_and_all_else_stays(self) -> None:
        members = self.members(self.make(self.talk()))
        photo = next(data for name, data in members.items() if data.startswith(b"\xff\xd8"))
        self.assertEqual(Image.open(io.BytesIO(photo)).size, (450, 300))
        for kept in (b"Nets at dawn", b"Thank the volunteers", b"Media/flight.mp4"):
            self.assertIn(kept, members["content.xml"])

    def test_films_and_speaker_notes_go_only_on_request(self) -> None:
        members = self.members(
            self.make(self.talk(), without(ExtraKind.MEDIA, ExtraKind.SPEAKER_NOTES))
        )
        self.assertNotIn("Media/flight.mp4", members)
        for gone in (b"plugin", b"Thank the volunteers"):
            self.assertNotIn(gone, members["content.xml"])
        self.assertIn(b"still", members["content.xml"])

    def test_a_lost_word_or_a_moved_shape_is_seen(self) -> None:
        source = self.talk()
        sheet = weigh(source)
        copy = make_copy(source, sheet, plan(sheet, preset_named("post")), self.folder / "c.odp")
        for old, new in ((b"Nets at", b"Nets on"), (b"7.62cm", b"7.72cm"), (b"Thank", b"Fire")):
            with self.subTest(old):
                path = self.folder / "faulty.odp"
                path.write_bytes(copy.path.read_bytes())
                change = {"content.xml": lambda xml, a=old, b=new: xml.replace(a, b)}
                faulty = rewritten(Source(path=path), change)
                self.assertIs(prove(source, faulty, sheet, copy.outcomes).verdict, Verdict.CHECK)
