"""Leftovers of killed work are removed, and nothing else."""

import tempfile
import time
from pathlib import Path
from uuid import uuid4

from django.test import SimpleTestCase, override_settings

from tests.web.cases import ApiCase
from web.satchels.upkeep.leftovers import sweep_leftovers

_LATER_S = 3 * 3600


class Leftovers(SimpleTestCase):
    def test_leftovers_go_once_they_are_old(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            document = Path(name) / "files" / "satchel" / "document"
            uploads = Path(name) / "uploads"
            kept = [document / "original", document / "copy-7", document / "thumbnails" / "a.png"]
            unfinished = [
                *(document / "copy-8.partial", document / "copy-8.unproved"),
                *(document / ".fit-x" / "inside", document / "tmpabc" / "page.png"),
                uploads / "tmpq.upload",
            ]
            for path in (*kept, *unfinished):
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(b"x")
            with override_settings(MEDIA_ROOT=Path(name) / "files", FILE_UPLOAD_TEMP_DIR=uploads):
                self.assertEqual(sweep_leftovers(), 0)
                self.assertEqual(sweep_leftovers(time.time() + _LATER_S), 5)
                self.assertEqual(sweep_leftovers(time.time() + _LATER_S), 0)
            self.assertTrue(all(path.exists() for path in kept))
            self.assertFalse(any(path.exists() for path in unfinished))


class Ownerless(ApiCase):
    def test_folders_of_what_is_gone_go_too(self) -> None:
        self.upload(self.report())
        files = self.folder / "files"
        satchel = files / self.satchel
        (mine,) = satchel.iterdir()
        of_nobody = [
            *(files / str(uuid4()), satchel / str(uuid4())),
            files / "intake" / str(uuid4()),
        ]
        of_others = [files / "intake" / "readme", files / "notes"]
        for folder in (*of_nobody, *of_others):
            folder.mkdir(parents=True)
        with override_settings(FILE_UPLOAD_TEMP_DIR=self.folder / "uploads"):
            self.assertEqual(sweep_leftovers(), 0)
            self.assertEqual(sweep_leftovers(is_nobody_at_work=True), 3)
        self.assertFalse(any(folder.exists() for folder in of_nobody))
        self.assertTrue(all(folder.exists() for folder in (*of_others, mine / "original")))
