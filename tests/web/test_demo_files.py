"""Demo files are made at the same time without touching each other."""

import tempfile
import unittest
from pathlib import Path
from unittest.mock import patch

from demo import files


class DemoFiles(unittest.TestCase):
    def test_files_that_differ_in_their_ending_only_are_made_apart(self) -> None:
        written: list[Path] = []
        names = ("Reed bed talk.odp", "Reed bed talk.pptx")
        makers = {name: lambda path: (written.append(path), path.touch()) for name in names}
        with tempfile.TemporaryDirectory() as folder, patch.object(files, "DEMO_FILES", makers):
            for name in names:
                files._make(Path(folder), name)
            self.assertEqual({path.name for path in Path(folder).iterdir()}, set(names))
        self.assertEqual(len(set(written)), 2)
